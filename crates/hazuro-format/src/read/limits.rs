//! From the keys that limit detectors to limits.

use hazuro::scene::{Field, Limits};

use crate::code::Code;
use crate::read::reader::Reader;

impl Reader<'_> {
    /// How often detectors may act, if anything is said of it.
    pub(crate) fn limits(
        &mut self,
        (cooldown, shared): (Option<f64>, Option<bool>),
        (once, limit): (Option<bool>, Option<u64>),
        field: &Field,
    ) -> Option<Limits> {
        if once == Some(true) && limit.is_some() {
            let message = "`once` and `limit` both say how often";
            self.error(&field.key("limit"), Code::TwoCounts, message, "keep one of them");
        }
        if shared.is_some() && cooldown.is_none() {
            let help = "add `cooldown = seconds`";
            let message = "`cooldown_shared` goes with `cooldown`";
            self.error(&field.key("cooldown_shared"), Code::NoPartner, message, help);
        }
        let limit = if once == Some(true) { Some(1) } else { limit };
        let limits = Limits {
            cooldown: cooldown.unwrap_or_default(),
            shared: shared.unwrap_or_default(),
            limit,
        };
        (limits != Limits::default()).then_some(limits)
    }
}
