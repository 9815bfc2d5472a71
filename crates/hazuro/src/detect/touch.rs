//! Touches: what meets something, where, and how fast.

use crate::why::{Check, Evidence, Gate};

use super::pair::{admitted, apart, enabled, present};
use super::region::Gates;

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
