//! Zones: who comes in, who leaves, exactly when.

use crate::why::Gate;

use super::region::{Gates, Look};
use crate::why::{Check, Evidence};

/// The gates of a zone, in order.
pub(super) const fn gates<'a>() -> Gates<'a> {
    [
        Look::ENABLED,
        Look::PRESENT,
        Look::APART,
        Look::ADMITTED,
        Check { gate: Gate::InShape, passes: |look| look.meets(), evidence: |look| look.gap() },
        Check { gate: Gate::Edge, passes: |look| look.crosses(), evidence: |_| Evidence::None },
    ]
}
