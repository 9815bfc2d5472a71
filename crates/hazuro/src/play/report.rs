//! From a detection to its event.

use crate::Time;
use crate::describe::{Action, Detector, EntityId, EventKind};
use crate::detect::{Change, Pair, Ruling, rule_on};
use crate::geometry::Pose;
use crate::react::ActionContext;
use crate::record::{By, Problem};
use crate::state::{Cause, Event, Origin, Scheduled, Stay, WHOLE};
use crate::why::Witness;

use super::{Play, pending::REGIONS};

impl Play {
    /// A subject begins or ceases to be detected: writes that down, and tells of it unless its
    /// detector's limits forbid it.
    pub(super) fn report<W: Witness>(&mut self, change: &Change, witness: &mut W) {
        let origin = self.what_brought(change);
        self.because(origin, |play| play.report_it(change, witness));
    }

    /// What a change comes of.
    pub(super) fn what_brought(&self, change: &Change) -> Origin {
        let Change { on, who, cause, .. } = *change;
        if cause == Cause::Admit && self.state.causes.now != Origin::Start {
            // What is going on let it in, or out.
            return self.state.causes.now;
        }
        self.state.what_brought(&self.scene, on, who, cause)
    }

    fn report_it<W: Witness>(&mut self, change: &Change, witness: &mut W) {
        let reported = if change.opens { self.open(change, witness) } else { self.close(change) };
        let Some(edge) = reported else { return };
        let detector = change.detector;
        let kind = if change.opens { detector.opens() } else { detector.closes() };
        let Some(kind) = kind else { return };
        let highlight = match (detector, change.opens) {
            (Detector::Prompt, true) => {
                self.state.begin_highlight(&self.scene, (change.on, change.who))
            }
            (Detector::Prompt, false) => self.state.end_highlight(change.on, change.who),
            _ => None,
        };
        let event = Event {
            on: Some(change.on),
            who: change.about,
            cause: Some(change.cause),
            meeting: change.meeting,
            highlight,
            edge,
            ..self.event(kind)
        };
        let mut event = self.located(event, change.part);
        if change.about != Some(change.who) {
            // It happens where the one is that stands, not where what it stands on is.
            event.at = Some(self.state.pose(&self.scene, change.who, event.time).position);
            event.part = None;
        }
        let this = self.state.causes.next();
        self.dispatch(&event, witness);
        self.state.causes.now = this;
        if detector == Detector::Zone && self.scene.thing(change.on).pickup.is_some() {
            if change.opens {
                self.collect(change.on, change.who, &event);
            } else {
                self.state.values.left_lying.remove(&(change.on, change.who));
            }
            self.see_to_effects(witness);
        }
    }

    /// Lets somebody who has come to a pickup collect it.
    fn collect(&mut self, what: EntityId, to: EntityId, event: &Event) {
        let collect = Action::Collect { what, to };
        let there = self.state.stay(what, Detector::Zone, to).is_some();
        if !there || self.acting(By::Detector(what), event, |act| act.perform(&collect)) {
            self.state.values.left_lying.remove(&(what, to));
        } else {
            self.state.values.left_lying.insert((what, to));
        }
    }

    /// Lets those collect who stand at a pickup that would have given them nothing, if it would
    /// now.
    pub(super) fn collect_again<W: Witness>(&mut self, witness: &mut W) {
        for (what, to) in self.state.values.left_lying.clone() {
            if self.state.would_give(&self.scene, what, to) {
                let event = Event { on: Some(what), who: Some(to), ..self.event(EventKind::Enter) };
                self.collect(what, to, &event);
                self.see_to_effects(witness);
            }
        }
    }

    /// Begins a stay. Whether nobody was detected before; none if nothing is to be told.
    pub(super) fn open<W: Witness>(&mut self, change: &Change, witness: &mut W) -> Option<bool> {
        let Change { on, detector, who, by_part, cause, .. } = *change;
        if self.state.parts_within(on, detector, who).any(|part| part == by_part) {
            return None;
        }
        let (ruling, failure) = rule_on(&self.scene, &self.state, change, witness);
        if let Some(failure) = failure {
            self.problem(By::Detector(on), None, Problem::Condition(failure));
        }
        if ruling == Ruling::Dropped {
            return None;
        }
        let now = self.state.now;
        let state = &mut self.state;
        let (number, silent) = (state.next_number(), ruling == Ruling::Silent);
        self.runtime.watch.note(state, (on, detector, who), by_part, true);
        let occupancy = state.senses.occupancies.entry((on, detector)).or_default();
        occupancy.stays.insert((who, by_part), Stay { since: now, cause, number, silent });
        if silent {
            return None;
        }
        occupancy.reported += 1;
        let edge = occupancy.reported == 1;
        occupancy.turns += u64::from(edge);
        if !matches!(detector, Detector::Prompt | Detector::Pointer) {
            self.use_up(on, detector, who);
        }
        let zone = self.scene.thing(on).zone.as_ref().filter(|_| detector == Detector::Zone);
        if let Some(every) = zone.and_then(|zone| zone.inside_every) {
            let beat = Scheduled::IntervalTick { zone: on, subject: who, stay: number, number: 1 };
            // The next entry tells of the stay.
            self.state.schedule.put(now + every, self.state.causes.next(), beat);
        }
        Some(edge)
    }

    /// Ends a stay. Whether nobody is detected any more; none if nothing is to be told.
    pub(super) fn close(&mut self, change: &Change) -> Option<bool> {
        let Change { on, detector, who, by_part, .. } = *change;
        let occupancy = self.state.senses.occupancies.get_mut(&(on, detector))?;
        let stay = occupancy.stays.remove(&(who, by_part))?;
        self.runtime.watch.note(&self.state, (on, detector, who), by_part, false);
        if !self.state.values.effects.is_empty() {
            let event = self.event(EventKind::Stat);
            let (scene, state, after) = (&*self.scene, &mut self.state, &mut self.runtime.after);
            ActionContext { scene, state, event: &event, after }.stay_over(stay.number);
        }
        let occupancy = self.state.senses.occupancies.get_mut(&(on, detector))?;
        if stay.silent {
            return None;
        }
        occupancy.reported -= 1;
        let edge = occupancy.reported == 0;
        occupancy.turns += u64::from(edge);
        Some(edge)
    }

    /// Counts that a detector has acted.
    pub(super) fn use_up(&mut self, on: EntityId, detector: Detector, who: EntityId) {
        let limits = self.state.limits(&self.scene, on);
        if limits.limit.is_none() && limits.cooldown == Time::ZERO {
            return;
        }
        for who in [None, Some(who)] {
            let usage = self.state.senses.detector_usage.entry((on, detector, who)).or_default();
            usage.times += 1;
            usage.ready_at = self.state.now + limits.cooldown;
        }
    }

    /// Tests again whether those are admitted who are on a condition, now that something has been
    /// done.
    pub(super) fn admit_again<W: Witness>(&mut self, witness: &mut W) {
        let scene = self.scene.clone();
        for &on in scene.conditional() {
            for detector in REGIONS {
                for who in self.state.known(on, detector) {
                    let pair = Pair { scene: &scene, state: &self.state, on, detector, who };
                    match pair.condition_holds() {
                        Ok(true) => continue,
                        Ok(false) => {}
                        Err(why) => {
                            self.problem(By::Detector(on), None, Problem::Condition(why));
                        }
                    }
                    let parts: Vec<u32> = self.state.parts_within(on, detector, who).collect();
                    for by_part in parts {
                        let part = (by_part != WHOLE).then_some(by_part as usize);
                        let change = Change::of(on, detector, who, false, Cause::Admit);
                        self.report(&Change { by_part, part, ..change }, witness);
                    }
                }
            }
            self.runtime.watch.disturb(&self.scene, &self.state, on, Cause::Admit);
        }
    }

    /// An event at this moment, with nothing known of it yet.
    pub(super) fn event(&self, kind: EventKind) -> Event {
        let now = self.state.now;
        Event::bare(kind, now, now.tick(self.rate))
    }

    /// The event with its part and place.
    pub(super) fn located(&self, event: Event, part: Option<usize>) -> Event {
        let Some(who) = event.who else { return event };
        let parts = self.scene.thing(who).body.as_ref().map_or(&[][..], |body| &body.parts);
        // With one part there is no question which.
        let part = part.or((parts.len() == 1).then_some(0)).filter(|_| !parts.is_empty());
        // What a jump ended was so where it jumped from.
        let left = event.kind.is_closing() && event.cause == Some(Cause::Teleport);
        let pose = |entity, offset| {
            let pose = if left {
                self.state.pose_before_jumps(&self.scene, entity)
            } else {
                self.state.pose(&self.scene, entity, event.time)
            };
            pose * offset
        };
        let pose = match part {
            Some(part) if part < parts.len() => pose(who, parts[part].pose),
            // A solid that belongs to it.
            Some(part) => {
                let limb = self.scene.attached_solids(who).get(part - parts.len()).copied();
                pose(limb.unwrap_or(who), Pose::IDENTITY)
            }
            None => pose(who, Pose::IDENTITY),
        };
        Event { part, at: Some(pose.position), ..event }
    }
}
