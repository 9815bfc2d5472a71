//! Why something is shown, offered or on, or is not.

use hazuro::scene::{Action, EventKind};
use hazuro::{EntityId, Entry, Event, Time};

use super::aim::Aim;
use super::inquiry::Inquiry;

impl Inquiry<'_> {
    /// Why something is shown, or not: `off` is the first of it and its ancestors that is hidden.
    pub(crate) fn visible(
        &self,
        what: EntityId,
        off: Option<EntityId>,
        is_wanted: bool,
        at: Time,
    ) -> Vec<String> {
        if is_wanted {
            return off.map_or_else(Vec::new, |off| vec![self.off_since(off, at)]);
        }
        let of: Vec<EntityId> = self.scene().lineage(what).collect();
        let aim = Aim::Switches { of, to: false };
        let shows = Aim::Switches { of: self.scene().lineage(what).collect(), to: true };
        let shown = self.last_done(&shows, at);
        let mut lines: Vec<String> = shown
            .map(|entry| format!("it was switched last {}", self.because.sentence(entry)))
            .into_iter()
            .collect();
        lines.extend(self.fates(&aim, at, 1));
        if lines.is_empty() {
            lines.push(format!("nothing hides {}", self.name(what)));
        }
        lines
    }

    /// What switched something off: the rest of a sentence that says it is off.
    pub(super) fn switched_off(&self, off: EntityId, at: Time) -> String {
        let line = self.off_since(off, at);
        let said = format!("`{}` is off or hidden, ", self.name(off));
        line.strip_prefix(&said).map_or(line.clone(), ToOwned::to_owned)
    }

    /// That something is off or hidden, since when, and by what.
    pub(crate) fn off_since(&self, off: EntityId, at: Time) -> String {
        let name = self.name(off);
        let aim = Aim::Switches { of: vec![off], to: false };
        if let Some(entry) = self.last_done(&aim, at) {
            let taken = match entry.action() {
                Some(Action::Collect { to, .. }) => {
                    format!("was collected by {}", self.name(*to))
                }
                _ => "is off or hidden".into(),
            };
            return format!("`{name}` {taken}, {}", self.because.sentence(entry));
        }
        let key = if self.scene().starts_enabled(off) { "visible" } else { "enabled" };
        let place = self.because.entity_place(off, key);
        let place = place.map_or(String::new(), |place| format!(" ({place})"));
        format!("`{name}` is off or hidden from the start{place}")
    }

    /// Why something is still offered that should not be.
    pub(crate) fn still_offered(&self, prompt: EntityId, who: EntityId, at: Time) -> Vec<String> {
        let offered = |entry: &&Entry| {
            let is = |event: &Event| {
                event.kind == EventKind::Offer && event.on == Some(prompt) && event.who == Some(who)
            };
            entry.event().is_some_and(is)
        };
        let since = self.until(at).iter().rfind(offered).map(|entry| {
            let since = self.because.since(entry.number);
            format!("it is offered since {:#} s, {since}", entry.time())
        });
        let of: Vec<EntityId> = self.scene().lineage(prompt).collect();
        let fates = self.fates(&Aim::Switches { of, to: false }, at, 1);
        // One line: since when, and what would have ended it.
        let all: Vec<String> = since.into_iter().chain(fates).collect();
        vec![all.join("; ")]
    }
}
