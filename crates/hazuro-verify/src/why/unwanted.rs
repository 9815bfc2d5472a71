//! What led to an event that should not have come.

use std::fmt::Write;

use hazuro::geometry::{Convex, Pose, distance};
use hazuro::scene::EventKind;
use hazuro::{EntityId, Entry, Event, Happening, Time};

use crate::words::round;

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
            let deep = self.deepest((on, who), entry);
            let farther = match deep {
                Some((deep, time)) => {
                    let _ = write!(line, "; it came {deep} m deep, at {time:#} s");
                    format!(", or keep it {deep} m farther off")
                }
                None => String::new(),
            };
            let own = if self.scene().admit_of(on).is_none() && !self.scene().is_player(who) {
                "players = true".to_owned()
            } else {
                format!("not = {{ names = [\"{}\"] }}", self.name(who))
            };
            let on = self.name(on);
            return vec![line, format!("cure: let `{on}` admit = {{ {own} }}{farther}")];
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

    /// How deep somebody came into a zone during the stay that began with an event, in metres, and when;
    /// none for what has no shape to be in.
    fn deepest(&self, (on, who): (EntityId, EntityId), entered: &Entry) -> Option<(f64, Time)> {
        /// How often it is measured.
        const MOMENTS: i64 = 200;
        let form = self.scene().zone_form(on).filter(|_| is_enter(entered))?;
        let left = self.entries.iter().find(|entry| {
            let left =
                |it: &Event| (it.kind, it.on, it.who) == (EventKind::Exit, Some(on), Some(who));
            entry.number > entered.number && entry.event().is_some_and(left)
        });
        let until = left.map_or(self.tape.length, Entry::time);
        let from = entered.time();
        let mut play = self.play();
        let mut deepest = (0.0, from);
        for moment in 0..=MOMENTS {
            let share = moment as f64 / MOMENTS as f64;
            let time = from + Time::from_secs((until - from).secs() * share);
            play.advance(time);
            let (here, there) = (play.pose(on).ok()?, play.pose(who).ok()?);
            let deep = |(offset, piece): (Pose, &Convex)| {
                let parts = self.scene().parts(who).flat_map(|(_, form, at)| {
                    form.pieces().map(move |(offset, piece)| (at * offset, piece))
                });
                let own = here * offset;
                let gap = |(at, part)| distance(piece, &own, part, &(there * at)).gap;
                -parts.map(gap).fold(f64::INFINITY, f64::min)
            };
            let deep = form.pieces().map(deep).fold(f64::NEG_INFINITY, f64::max);
            if deep > deepest.0 {
                deepest = (deep, time);
            }
        }
        (deepest.0 > 0.0).then_some((round(deepest.0), deepest.1))
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
        let kind = kinds.iter().find(|it| scene.is_of_kind(who, it));
        by.extend(kind.map(|it| format!("the kind {it}")));
        by.extend(names.iter().find(|it| *it == who_name).map(|it| format!("the name {it}")));
        if by.is_empty() {
            by.push("a rule that leaves tags, kinds and names open".into());
        }
        format!("{who_name} was let in by {}{place}", by.join(" and "))
    }
}

fn is_enter(entry: &Entry) -> bool {
    entry.event().is_some_and(|event| event.kind == EventKind::Enter)
}
