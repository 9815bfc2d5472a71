//! The tick: what happens between two moments, in the order in which it happens.

use crate::Time;
use crate::geometry::Pose;
use crate::scene::EventKind;
use crate::state::{Cause, Event, Input, Item, Stay};
use crate::why::Witness;

use super::entry::By;
use super::watch::Watch;
use super::{Play, intents};

impl Play {
    /// Plays until `until`.
    pub(super) fn run<W: Witness>(&mut self, until: Time, witness: &mut W) {
        self.entries.clear();
        if self.state.now >= until {
            return;
        }
        if !self.state.started {
            self.state.started = true;
            self.dispatch(&Event::bare(EventKind::Start, Time::ZERO, 0), witness);
        }
        while let Some(input) = self.state.agenda.take_at_once() {
            self.take_in(input, witness);
        }
        while self.happen(until, witness) {}
        self.state.now = until;
        self.watch.refresh(&self.scene, &self.state);
    }

    /// Lets the next thing before `end` happen. `false` if there is none.
    fn happen<W: Witness>(&mut self, end: Time, witness: &mut W) -> bool {
        let due = self.state.agenda.next().filter(|due| due.time < end);
        let crossing = self.watch.next_crossing().filter(|time| *time < end);
        let wake = self.watch.next_wake().filter(|time| *time < end);
        let next = due.map_or(end, |due| due.time).min(crossing.unwrap_or(end));
        if W::LISTENS {
            // Until then nothing changes; what happens at that very moment is to be heard too.
            let until = next.min(wake.unwrap_or(end)) + Time::from_nanos(1);
            Watch::hear(&self.scene, &self.state, until.min(end), witness);
        }
        if let Some(time) = wake.filter(|time| *time <= next) {
            self.state.now = time;
            self.watch.wake(&self.scene, &self.state);
            return true;
        }
        let due_first = match (due, crossing) {
            (None, None) => return false,
            (Some(_), None) => true,
            (None, Some(_)) => false,
            (Some(due), Some(crossing)) => (due.time, due.after_detection) <= (crossing, false),
        };
        if due_first {
            if let Some((due, item)) = self.state.agenda.take() {
                self.state.now = due.time;
                self.fall_due(item, witness);
            }
        } else {
            self.cross(witness);
        }
        true
    }

    /// A subject comes into a zone or leaves it.
    fn cross<W: Witness>(&mut self, witness: &mut W) {
        let Some((zone, subject, crossing, cause)) = self.watch.take() else {
            return;
        };
        self.state.now = crossing.time;
        let state = &mut self.state;
        let occupancy = state.zones.entry(zone).or_default();
        let kind = if crossing.enters {
            state.stays_so_far += 1;
            let number = state.stays_so_far;
            occupancy.stays.insert(subject, Stay { since: crossing.time, cause, number });
            if let Some(every) =
                self.scene.thing(zone).zone.as_ref().and_then(|zone| zone.inside_every)
            {
                let beat = Item::Beat { zone, subject, stay: number, number: 1 };
                state.agenda.put(crossing.time + every, beat);
            }
            EventKind::Enter
        } else {
            occupancy.stays.remove(&subject);
            EventKind::Exit
        };
        let edge = occupancy.stays.len() == usize::from(crossing.enters);
        if edge {
            occupancy.turns += 1;
        }
        let event = Event {
            on: Some(zone),
            who: Some(subject),
            cause: Some(cause),
            edge,
            ..self.event(kind)
        };
        let event = self.located(event, crossing.part);
        self.dispatch(&event, witness);
    }

    /// An event at this moment, with nothing known of it yet.
    pub(super) fn event(&self, kind: EventKind) -> Event {
        let now = self.state.now;
        Event::bare(kind, now, now.tick(self.rate))
    }

    /// The event with its part and place.
    fn located(&self, event: Event, part: Option<usize>) -> Event {
        let Some(who) = event.who else { return event };
        let parts = self.scene.thing(who).body.as_ref().map_or(&[][..], |body| &body.parts);
        // With one part there is no question which.
        let part = part.or((parts.len() == 1).then_some(0));
        let offset = part.map_or(Pose::IDENTITY, |part| parts[part].pose);
        let pose = self.state.pose(&self.scene, who, event.time) * offset;
        Event { part, at: Some(pose.position), ..event }
    }

    /// Something planned is due.
    fn fall_due<W: Witness>(&mut self, item: Item, witness: &mut W) {
        match item {
            Item::Input(input) => self.take_in(input, witness),
            Item::React { reaction, event, turns } => {
                self.react_now(reaction, &event, turns, witness);
            }
            Item::Beat { zone, subject, stay, number } => {
                let Some(found) =
                    self.state.stay(zone, subject).filter(|found| found.number == stay)
                else {
                    return;
                };
                let since = found.since;
                let spec = self.scene.thing(zone).zone.as_ref();
                if let Some(every) = spec.and_then(|zone| zone.inside_every) {
                    // Counted from the start of the stay, so that rounding never adds up.
                    let next =
                        since + Time::from_nanos(every.nanos().saturating_mul(number as i64 + 1));
                    let number = number + 1;
                    self.state.agenda.put(next, Item::Beat { zone, subject, stay, number });
                }
                let event =
                    Event { on: Some(zone), who: Some(subject), ..self.event(EventKind::Inside) };
                let event = self.located(event, None);
                self.dispatch(&event, witness);
            }
        }
    }

    /// Something is done to the play from outside.
    fn take_in<W: Witness>(&mut self, input: Input, witness: &mut W) {
        let (scene, state) = (&*self.scene, &mut self.state);
        let (who, cause) = match input {
            Input::Walk { who, to } => {
                if !intents::walk(scene, state, who, to) {
                    return;
                }
                (who, Cause::Move)
            }
            Input::Drive { who, to, until } => {
                intents::drive(scene, state, who, to, until);
                (who, Cause::Move)
            }
            Input::Place { who, at } => {
                intents::place(scene, state, who, at);
                (who, Cause::Teleport)
            }
            Input::Face { who, to } => {
                intents::face(scene, state, who, to);
                (who, Cause::Move)
            }
            Input::Remove(who) => {
                state.live_mut(who).removed = true;
                (who, Cause::Remove)
            }
            Input::Act(action) => {
                let nobody = self.event(EventKind::Cue);
                self.acting(By::Host, &nobody, |act| act.perform(&action));
                self.see_to_effects(witness);
                return;
            }
        };
        self.watch.disturb(&self.scene, &self.state, who, cause);
    }
}
