//! Touches: what meets something, where, and how fast.

use crate::describe::{Among, Described, Fault, Features, Field, Listed, Scope, Touch, range};
use crate::geometry::{Form, ShapeError};
use crate::model::{PlacedPart, Thing};
use crate::resolve::{Owner, Resolve, Resolver, Use};
use crate::why::{Check, Evidence, Gate};

use super::pair::{admitted, apart, enabled, present};
use super::region::Gates;
use super::{Asked, Detect};

#[derive(Clone, Debug)]
pub(crate) struct TouchSpec {
    /// A little larger than what can be touched.
    pub form: Form,
    pub config: Touch,
}

impl Described for Touch {
    type Spec = TouchSpec;
}

impl Resolve for Touch {
    fn resolve(
        &self,
        resolver: &mut Resolver,
        owner: Owner<'_>,
        field: &Field,
    ) -> Option<TouchSpec> {
        resolver.range(field.key("margin"), self.margin, &range::TOUCH_MARGIN);
        resolver.range(field.key("at_least"), self.at_least, &range::TOUCH_SPEED);
        let Owner { features: Features { solid, zone, body, .. }, scale, is_whole } = owner;
        if let Some(shape) = &self.shape {
            let form = resolver.shape(field, shape, scale, Use::Zone)?;
            return Some(TouchSpec { form: form.grown(self.margin), config: self.clone() });
        }
        // Whether there is anything to touch is known of the whole entity only.
        if !is_whole {
            return None;
        }
        let shape = solid.as_deref().or(zone.as_ref().map(|zone| zone.shape()));
        let form = if let Some(shape) = shape {
            let form = resolver.shape(field, shape, scale, Use::Solid)?;
            if form.is_ground() {
                resolver.error(field.clone(), ShapeError::NotConvex(shape.word()).into());
                return None;
            }
            form
        } else if let Some(body) = body {
            let parts = resolver.body(body, scale, field);
            Form::of_pieces(parts.iter().flat_map(PlacedPart::pieces))
        } else {
            resolver.error(field.clone(), Fault::NothingThere { detector: Self::DETECTOR });
            return None;
        };
        Some(TouchSpec { form: form.grown(self.margin), config: self.clone() })
    }
}

impl Detect for Touch {
    fn asked(_: &TouchSpec, _: &Thing) -> Asked {
        Asked::Ahead
    }

    fn scope(&self) -> Scope {
        let among = Among { solids: self.solids, bodies: true, zones: false };
        Scope::of(among)
    }
}

/// The gates of a touch detector, in order. Whether it is hard enough is a gate of what comes of
/// it, see [`rule_on`](super::rule_on).
pub(super) const fn gates<'a>() -> Gates<'a> {
    [
        enabled(),
        present(),
        apart(),
        admitted(),
        Check { gate: Gate::Touches, passes: |look| look.meets(), evidence: |look| look.gap() },
        Check { gate: Gate::Edge, passes: |look| look.crosses(), evidence: |_| Evidence::None },
    ]
}
