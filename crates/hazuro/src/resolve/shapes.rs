//! Checking the shapes of a description and making them ready for use.

use crate::Time;
use crate::describe::{Body, Fault, Field, Legs, Makeup, Named, Zone, range};
use crate::geometry::{Form, Pose, Shape, ShapeError};
use crate::model::PlacedPart;

use super::resolver::Resolver;

/// What a shape is for, which decides which shapes will do.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Use {
    Zone,
    Solid,
    Body,
    /// In a combination.
    Piece,
}

impl Use {
    /// Why a form will not do.
    fn objection(self, form: &Form, shape: &Shape) -> Option<ShapeError> {
        if self != Self::Solid && form.is_ground() {
            return Some(ShapeError::NotConvex(shape.word()));
        }
        (self == Self::Body && form.is_endless()).then_some(ShapeError::Endless)
    }
}

impl Resolver {
    /// A shape, `scale` times as large.
    pub(crate) fn shape(
        &mut self,
        field: &Field,
        shape: &Shape,
        scale: f64,
        purpose: Use,
    ) -> Option<Form> {
        let before = self.errors.len();
        if let Shape::Any { shapes } = shape {
            // One by one, so that each error is found where it is.
            for (index, posed) in shapes.iter().enumerate() {
                let field = field.key("any").item(index);
                self.pose(&field, "at", &posed.pose);
                self.shape(&field, &posed.shape, scale, Use::Piece);
            }
        }
        if self.errors.len() > before {
            return None;
        }
        let fit =
            self.forms.form(shape, scale).and_then(|form| match purpose.objection(&form, shape) {
                Some(objection) => Err(objection),
                None => Ok(form),
            });
        fit.map_err(|error| self.error(place(&field.key(shape.word()), &error), error.into())).ok()
    }

    pub(crate) fn zone(
        &mut self,
        zone: &Zone,
        scale: f64,
        field: &Field,
    ) -> Option<(Form, Option<Time>)> {
        if let Some(seconds) = zone.inside_every {
            self.interval(field.key("inside_every"), seconds);
        }
        let form = self.shape(field, &zone.shape, scale, Use::Zone)?;
        Some((form, zone.inside_every.map(Time::from_secs)))
    }

    pub(crate) fn body(&mut self, body: &Body, scale: f64, field: &Field) -> Box<[PlacedPart]> {
        if let Some(speed) = body.walk {
            self.range(field.key("walk"), speed, &range::WALK_SPEED);
        }
        self.legs(&body.legs, field);
        match &body.makeup {
            Makeup::Whole(shape) => {
                let name = Body::WHOLE.to_owned();
                let form = self.shape(field, shape, scale, Use::Body);
                let placed = form.map(|form| {
                    let lift = if body.walk.is_some() { form.below() } else { 0.0 };
                    PlacedPart { name, pose: Pose::from([0.0, lift, 0.0]), form }
                });
                placed.into_iter().collect()
            }
            Makeup::Parts(parts) => {
                if parts.is_empty() {
                    self.error(field.key("parts"), Fault::NoParts);
                }
                let mut placed: Vec<PlacedPart> = Vec::new();
                for (index, part) in parts.iter().enumerate() {
                    let field = field.key("parts").item(index);
                    self.name(&part.name, &field.key("name"));
                    if let Some(first) =
                        parts[..index].iter().position(|other| other.name == part.name)
                    {
                        let first = Field::ROOT.key("parts").item(first);
                        let name = part.name.clone();
                        self.error(
                            field.key("name"),
                            Fault::Duplicate { what: Named::Part, name, first },
                        );
                    }
                    self.pose(&field, "at", &part.pose);
                    if let Some(form) = self.shape(&field, &part.shape, scale, Use::Body) {
                        let position = part.pose.position * scale;
                        let pose = Pose { position, ..part.pose };
                        placed.push(PlacedPart { name: part.name.clone(), form, pose });
                    }
                }
                placed.into()
            }
        }
    }
}

impl Resolver {
    fn legs(&mut self, legs: &Legs, field: &Field) {
        for (key, metres) in [("jump", legs.jump), ("step", legs.step)] {
            self.range(field.key(key), metres, &range::LEG_HEIGHT);
        }
        self.angle(field.key("slope"), legs.slope, &range::SLOPE);
    }
}

/// Where in the description of a shape its error is.
fn place(shape: &Field, error: &ShapeError) -> Field {
    match error {
        ShapeError::UnevenRows { row, .. } => shape.key("rows").item(*row),
        ShapeError::NoPoint { triangle, .. } | ShapeError::FlatTriangle(triangle) => {
            shape.key("triangles").item(*triangle)
        }
        _ => shape.clone(),
    }
}
