//! Making entities like a kind, and themselves again.

use crate::describe::{EntityId, Fault};
use crate::record::Refusal;
use crate::state::Cause;

use super::ActionContext;

impl ActionContext<'_> {
    /// Makes an entity like a kind, once what is being done is done.
    pub(super) fn convert(&mut self, what: EntityId, to: &str) -> Result<(), Refusal> {
        let converted = self.scene.converted(what, to).map_err(|fault| match fault {
            Fault::Unable { need, .. } => Refusal::Lacks(need.to_string()),
            other => Refusal::Unfit(other),
        })?;
        self.state.presence.conversions.insert(what, to.to_owned());
        self.after.converted.push((what, Some(converted)));
        self.is_otherwise(what);
        Ok(())
    }

    /// Makes an entity what it was before it was converted, if it was.
    pub(super) fn revert(&mut self, what: EntityId) {
        if self.state.presence.conversions.remove(&what).is_some() {
            self.after.converted.push((what, None));
            self.is_otherwise(what);
        }
    }

    fn is_otherwise(&mut self, what: EntityId) {
        self.state.motion.stirs.0 += 1;
        self.state.decide_anew(what);
        self.disturb(what, Cause::Convert);
    }
}
