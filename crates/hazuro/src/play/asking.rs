//! Asking the detectors that are asked again and again.

use std::collections::BTreeSet;

use smallvec::SmallVec;

use crate::Time;
use crate::describe::{Detector, EntityId, EventKind, Fault};
use crate::detect::{
    Change, Failed, Failure, Failures, footing, look, pointer, probe, prompt, seeker, sight,
};
use crate::model::EntityKey;
use crate::record::{By, Problem};
use crate::state::{Cause, Event};
use crate::why::Witness;

use super::Play;

impl Play {
    /// Asks the next detector that is due.
    pub(super) fn ask<W: Witness>(&mut self, witness: &mut W) {
        let Some((round, on, detector, cause)) = self.runtime.watch.rounds.take() else { return };
        let Some(cause) = cause else {
            self.listen(on, detector, witness);
            self.runtime.watch.rounds.goes_on(round, self.state.now, false, W::LISTENS);
            return;
        };
        let unsettled = match detector {
            Detector::Probe => self.ask_probe(on, cause, witness),
            Detector::Footing => self.ask_footing(on, cause, witness),
            Detector::Sight => self.ask_sight(on, cause, witness),
            Detector::Seeker => self.ask_seeker(on, cause, witness),
            Detector::Prompt => self.ask_prompts(on, cause, witness),
            Detector::Pointer => {
                self.ask_pointer(on, cause, witness);
                false
            }
            _ => false,
        };
        self.runtime.watch.rounds.goes_on(round, self.state.now, unsettled, W::LISTENS);
    }

    /// Runs the gates of all detectors of an entity about a subject, as they are now, for a witness
    /// to hear. Nothing comes of it. What a witness hears beside it depends on what it wants.
    ///
    /// ```
    /// use hazuro::{Play, Scene, Time, geometry::Shape, why::Notebook};
    /// use hazuro::scene::{Body, Entity, Zone};
    /// let cube = Shape::Box { size: [1.0; 3] };
    /// let scene = Scene::builder("Yard")
    ///     .entity(Entity::new("ball").at([3.0, 0.0, 0.0]).body(Body::new(cube.clone())))
    ///     .entity(Entity::new("slot").zone(Zone::new(cube)))
    ///     .build()?;
    /// let mut play = Play::new(scene);
    /// play.advance(Time::from_secs(1.0));
    /// let [ball, slot] = ["ball", "slot"].map(|name| play.scene().find(name).unwrap());
    /// let mut notebook = Notebook::about(Some(slot), Some(ball));
    /// play.try_gates(slot, ball, &mut notebook)?;
    /// let missing = notebook.stopped(slot, ball).unwrap().missing().unwrap();
    /// assert_eq!(missing.amount(), (2.0, "m"));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    ///
    /// # Errors
    /// If the scene does not have one of them.
    pub fn try_gates<W: Witness>(
        &self,
        on: impl EntityKey,
        who: impl EntityKey,
        witness: &mut W,
    ) -> Result<(), Fault> {
        let (on, who) = (self.scene.entity_id(on)?, self.scene.entity_id(who)?);
        let now = self.state.now;
        for detector in Detector::ALL.into_iter().filter(|it| self.scene.has(on, *it)) {
            match detector {
                Detector::Zone | Detector::Touch => {
                    let until = now + Time::from_nanos(1);
                    look((&self.scene, &self.state), (on, detector, who), until, witness);
                }
                // These are asked for each player.
                Detector::Prompt | Detector::Pointer => self.listen(who, detector, witness),
                _ => self.listen(on, detector, witness),
            }
        }
        Ok(())
    }

    /// Asks a detector in whose reach nothing stirs, for a witness to hear; nothing comes of it.
    fn listen<W: Witness>(&self, on: EntityId, detector: Detector, witness: &mut W) {
        let (space, cause, unsaid) = (self.space(), Cause::Move, &Failures::default());
        match detector {
            Detector::Probe => drop(probe::ask(space, on, cause, unsaid, witness)),
            Detector::Footing => drop(footing::ask(space, on, cause, unsaid, witness)),
            Detector::Sight => drop(sight::ask(space, on, cause, unsaid, witness)),
            Detector::Seeker => drop(seeker::ask(space, on, unsaid, witness)),
            Detector::Prompt => {
                drop(prompt::ask(space, on, &self.offered(on), cause, unsaid, witness));
            }
            Detector::Pointer => {
                if let Some(pointer) = self.state.pointers.get(&on) {
                    pointer::ask(space, on, pointer.at, unsaid, witness);
                }
            }
            _ => {}
        }
    }

    /// Reports what could not be told while somebody was asked: once, until it can be told again.
    pub(super) fn could_not_tell(
        &mut self,
        asked: EntityId,
        detector: Detector,
        failures: Failures,
    ) {
        let failures = failures.into_inner();
        if failures.is_empty() && self.state.failing.is_empty() {
            return;
        }
        let asks = |&(on, of, who): &(EntityId, Detector, EntityId)| {
            let asker = if matches!(of, Detector::Prompt | Detector::Pointer) { who } else { on };
            (asker, of) == (asked, detector)
        };
        let of = |failure: &Failure| (failure.on, failure.detector, failure.who);
        let failing: BTreeSet<_> = failures.iter().map(of).collect();
        self.state.failing.retain(|known| !asks(known) || failing.contains(known));
        for failure in failures {
            // A witness makes it look twice: each is said once.
            if self.state.failing.insert(of(&failure)) {
                let by = By::Detector(failure.on);
                self.problem(
                    by,
                    None,
                    match failure.what {
                        Failed::Condition(why) => Problem::Condition(why),
                        Failed::Score(why) => Problem::Score(why),
                    },
                );
            }
        }
    }

    fn report_all<W: Witness>(&mut self, changes: SmallVec<[Change; 2]>, witness: &mut W) {
        for change in changes {
            self.report(&change, witness);
        }
    }

    fn ask_probe<W: Witness>(&mut self, on: EntityId, cause: Cause, witness: &mut W) -> bool {
        let failures = Failures::default();
        let asked = probe::ask(self.space(), on, cause, &failures, witness);
        self.could_not_tell(on, Detector::Probe, failures);
        if let Some((ray, changes)) = asked {
            self.runtime.watch.rays.insert(on, ray);
            self.report_all(changes, witness);
        }
        false
    }

    fn ask_footing<W: Witness>(&mut self, on: EntityId, cause: Cause, witness: &mut W) -> bool {
        // A footing admits whatever is ground, on no condition.
        let step = footing::ask(self.space(), on, cause, &Failures::default(), witness);
        let Some(step) = step else { return false };
        self.state.stands.insert(on, step.stand);
        if let Some((change, ground)) = step.change {
            self.report_about(&change, ground, witness);
        }
        step.unsettled
    }

    fn ask_sight<W: Witness>(&mut self, on: EntityId, cause: Cause, witness: &mut W) -> bool {
        let failures = Failures::default();
        let sightings = sight::ask(self.space(), on, cause, &failures, witness);
        self.could_not_tell(on, Detector::Sight, failures);
        let Some(sightings) = sightings else { return false };
        for (who, awareness) in sightings.awareness {
            self.state.awareness.insert((on, who), awareness);
        }
        self.report_all(sightings.changes, witness);
        sightings.unsettled
    }

    fn ask_seeker<W: Witness>(&mut self, on: EntityId, cause: Cause, witness: &mut W) -> bool {
        let detector = Detector::Seeker;
        let failures = Failures::default();
        let chosen = seeker::ask(self.space(), on, &failures, witness);
        self.could_not_tell(on, detector, failures);
        let Some(seeker::Choice { target: chosen }) = chosen else { return false };
        let was = self.state.known(on, detector).first().copied();
        if chosen == was {
            return false;
        }
        let reported_before = was
            .is_some_and(|was| self.close(&Change::of(on, detector, was, false, cause)).is_some());
        let reported = chosen.is_some_and(|target| {
            self.open(&Change::of(on, detector, target, true, cause), witness).is_some()
        });
        if reported || reported_before {
            let who = chosen.filter(|_| reported);
            let was = was.filter(|_| reported_before);
            let (on, cause) = (Some(on), Some(cause));
            let event = Event { on, who, cause, was, ..self.event(EventKind::Retarget) };
            let event = self.located(event, None);
            self.dispatch(&event, witness);
        }
        false
    }
}
