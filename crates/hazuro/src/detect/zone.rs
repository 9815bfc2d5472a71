//! Zones: who comes in, who leaves, exactly when.

use crate::why::{Check, Evidence, Gate};

use super::pair::{admitted, apart, enabled, present};
use super::region::Gates;

/// The gates of a zone, in order.
pub(super) const fn gates<'a>() -> Gates<'a> {
    [
        enabled(),
        present(),
        apart(),
        admitted(),
        Check { gate: Gate::InShape, passes: |look| look.meets(), evidence: |look| look.gap() },
        Check { gate: Gate::Edge, passes: |look| look.crosses(), evidence: |_| Evidence::None },
    ]
}
