//! What would make it happen once, and what waits for it.

use hazuro::scene::{Detector, EventKind, Trigger};

use super::answer::Firing;
use super::heard::{Heard, selects};

/// If it happened more than once: what would make it once.
pub(super) fn often(heard: &Heard<'_>, fired: &[Firing]) -> Vec<String> {
    let [first, .., last] = fired else { return Vec::new() };
    let mut notes = Vec::new();
    let name = heard.question.on.map_or("it", |on| heard.scene.name(on));
    let several = fired.iter().any(|firing| firing.who != first.who);
    if heard.question.event == EventKind::Inside {
        notes.push(format!(
            "`inside` comes again and again while one stays: wait for `enter` of `{name}` instead"
        ));
        return notes;
    }
    let edges = heard.question.event.is_opening() || heard.question.event.is_closing();
    if several && edges && heard.waits_for_each() {
        let word = if heard.question.event.is_opening() { "first" } else { "last" };
        notes.push(format!(
            "several set it off: with {word} = true in `on` only the {word} of them counts"
        ));
    }
    // The shortest time between two by the same subject.
    let mut shortest = f64::INFINITY;
    let mut by_part = false;
    for (index, firing) in fired.iter().enumerate() {
        if let Some(next) = fired[index + 1..].iter().find(|next| next.who == firing.who) {
            shortest = shortest.min(next.t - firing.t);
            by_part |= next.part != firing.part && heard.tells_parts();
        }
    }
    if by_part {
        notes.push(format!("`{name}` tells of each part: take `parts` away for one event a body"));
    } else if shortest.is_finite() {
        let span = ((last.t - first.t) * 100.0).ceil() / 100.0;
        notes.push(format!(
            "to have it once: `once = true` for ever, or a `cooldown` longer than {shortest:.3} s; \
             the last came {span:.2} s after the first"
        ));
        if heard.question.event.detector() == Some(Detector::Footing) {
            notes.push("for feet that flicker raise `margin` or `grace` of the footing".into());
        }
    }
    notes
}

/// That nothing waits for it, and what waits for the same detector.
pub(super) fn bound(heard: &Heard<'_>) -> Vec<String> {
    let question = heard.question;
    let Some(on) = question.on else { return Vec::new() };
    let mut others = Vec::new();
    for reaction in heard.scene.reactions() {
        for trigger in reaction.triggers() {
            let Trigger::Detected { event, on: selector, .. } = trigger else { continue };
            if !selects(heard.scene, selector, on) {
                continue;
            }
            if *event == question.event {
                return Vec::new();
            }
            others.push(event.word());
        }
    }
    others.sort_unstable();
    others.dedup();
    let (event, name) = (question.event, heard.scene.name(on));
    let instead = match others.as_slice() {
        [] => String::new(),
        others => format!("; `{name}` is waited for with {}", others.join(", ")),
    };
    vec![format!("no reaction waits for `{event}` of `{name}`{instead}")]
}

impl Heard<'_> {
    /// Whether some reaction waits for each of those that set it off.
    fn waits_for_each(&self) -> bool {
        let triggers = self.scene.reactions().iter().flat_map(hazuro::scene::Reaction::triggers);
        let mut waiting = triggers.filter_map(|trigger| match trigger {
            Trigger::Detected { event, on, edge, .. } if *event == self.question.event => {
                Some(!edge && self.question.on.is_some_and(|it| selects(self.scene, on, it)))
            }
            _ => None,
        });
        waiting.any(|each| each)
    }

    fn tells_parts(&self) -> bool {
        let touch = self.question.on.and_then(|on| self.scene.touch_of(on));
        touch.is_some_and(|touch| touch.parts)
    }
}
