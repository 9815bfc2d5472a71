//! The forms of shapes that take long to make ready: a kind's is made once, and shared by all of its
//! entities.

use std::hash::Hasher;

use crate::fast_hash::{FastMap, Mix};
use crate::geometry::{Form, Shape, ShapeError};

/// Forms that were made, by their shapes and how many times as large they are.
#[derive(Debug, Default)]
pub(crate) struct Forms(FastMap<u64, Vec<(Shape, f64, Form)>>);

impl Forms {
    /// The form of a shape, `scale` times as large.
    pub fn form(&mut self, shape: &Shape, scale: f64) -> Result<Form, ShapeError> {
        let make = || {
            if scale == 1.0 { Form::new(shape) } else { Form::new(&shape.scaled(scale)) }
        };
        if !takes_long(shape) {
            return make();
        }
        let mut hash = Mix::default();
        hash.write_u64(scale.to_bits());
        fingerprint(shape, &mut hash);
        let alike = self.0.entry(hash.finish()).or_default();
        let known = alike.iter().find(|(other, times, _)| other == shape && *times == scale);
        if let Some((_, _, form)) = known {
            return Ok(form.clone());
        }
        let form = make()?;
        alike.push((shape.clone(), scale, form.clone()));
        Ok(form)
    }
}

fn takes_long(shape: &Shape) -> bool {
    matches!(
        shape,
        Shape::Hull { .. } | Shape::Heights { .. } | Shape::Mesh { .. } | Shape::Any { .. }
    )
}

/// What equal shapes have in common, and others probably not.
fn fingerprint(shape: &Shape, hash: &mut Mix) {
    let mut number = |value: f64| hash.write_u64(value.to_bits());
    match shape {
        Shape::Box { size } => size.iter().copied().for_each(number),
        Shape::Sphere { radius } => number(*radius),
        Shape::Capsule { radius, height }
        | Shape::Cylinder { radius, height }
        | Shape::Cone { radius, height } => [*radius, *height].into_iter().for_each(number),
        Shape::Hull { points } | Shape::Mesh { points, .. } => {
            points.iter().flatten().copied().for_each(number);
        }
        Shape::HalfSpace => {}
        Shape::Heights { rows, .. } => rows.iter().flatten().copied().for_each(number),
        Shape::Any { shapes } => {
            for posed in shapes {
                posed.pose.position.to_array().into_iter().for_each(&mut number);
            }
            for posed in shapes {
                fingerprint(&posed.shape, hash);
            }
        }
    }
}
