//! What led to an event that should not have come.

use std::fmt::Write;

use hazuro::{EntityId, Entry, Event, Happening};

use super::aim::Aim;
use super::inquiry::Inquiry;

impl Inquiry<'_> {
    /// The whole chain that led to an event that should not have been, and what let it in.
    pub(crate) fn came_of(&self, event: &Event) -> Vec<String> {
        let is_it = |entry: &&Entry| entry.event().is_some_and(|it| std::ptr::eq(it, event));
        let Some(entry) = self.entries.iter().find(is_it) else { return Vec::new() };
        let mut line = format!("it came {}", self.because.since(entry.number));
        if let (Some(on), Some(who)) = (event.on, event.who)
            && event.kind.is_opening()
            && !matches!(event.cause, Some(hazuro::Cause::Hand))
        {
            let _ = write!(line, "; {}", self.let_in(on, who));
            line += &self.switched_on(on, entry);
        }
        vec![line]
    }

    /// That a detector was off at first, and what switched it on.
    fn switched_on(&self, on: EntityId, event: &Entry) -> String {
        let of: Vec<EntityId> = self.scene().lineage(on).collect();
        let aim = Aim::Switches { of, to: true };
        let before = self.entries.iter().take_while(|entry| entry.number < event.number);
        let last = before
            .filter(|entry| matches!(entry.what, Happening::Did { .. }) && self.bears(&aim, entry));
        last.last().map_or(String::new(), |entry| {
            format!("; it was switched on {}", self.because.sentence(entry))
        })
    }

    /// By which word of its rule a detector admits somebody.
    fn let_in(&self, on: EntityId, who: EntityId) -> String {
        let scene = self.scene();
        let (name, who_name) = (self.name(on), self.name(who));
        let place = self.because.entity_place(on, "admit");
        let place = place.map_or(String::new(), |place| format!(" ({place})"));
        let Some(rule) = scene.admit_of(on) else {
            return format!("`{name}` admits everybody: it has no `admit`{place}");
        };
        let [tags, kinds, names] = rule.admitted();
        let has: Vec<&str> = scene.tags_of(who).collect();
        let mut by = Vec::new();
        by.extend(
            tags.iter().find(|tag| has.contains(&tag.as_str())).map(|it| format!("the tag {it}")),
        );
        let kind = scene.kind_of(who).map(hazuro::scene::Kind::name);
        by.extend(
            kinds.iter().find(|it| Some(it.as_str()) == kind).map(|it| format!("the kind {it}")),
        );
        by.extend(names.iter().find(|it| *it == who_name).map(|it| format!("the name {it}")));
        if by.is_empty() {
            by.push("a rule that leaves tags, kinds and names open".into());
        }
        format!("{who_name} was let in by {}{place}", by.join(" and "))
    }
}
