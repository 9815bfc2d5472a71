//! Asking the detectors that are asked again and again.

use std::collections::BTreeSet;

use crate::Time;
use crate::describe::{Detector, EntityId, Fault};
use crate::detect::{
    self, Answer, Change, Failed, Failure, Failures, Learnt, Question, look, pointer, prompt,
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
            self.runtime.watch.rounds.goes_on(round, self.state.now, false, true);
            return;
        };
        let unsettled = match detector {
            Detector::Prompt => self.ask_prompts(on, cause, witness),
            Detector::Pointer => {
                self.ask_pointer(on, cause, witness);
                false
            }
            other => self.ask_in_round(on, other, cause, witness),
        };
        // A ray and a footing look no farther than their reach, in which nothing stirs any more.
        let within = matches!(detector, Detector::Probe | Detector::Footing);
        // Players are asked about what is others'.
        let own = !matches!(detector, Detector::Prompt | Detector::Pointer);
        let wanted = W::LISTENS && (!own || witness.wants_of(on));
        let heard = wanted && (!within || witness.hears_again());
        self.runtime.watch.rounds.goes_on(round, self.state.now, unsettled, heard);
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
        let (space, cause, failures) = (self.space(), Cause::Move, &Failures::default());
        match detector {
            Detector::Prompt => {
                drop(prompt::ask(space, on, &self.offered(on), cause, failures, witness));
            }
            Detector::Pointer => {
                if let Some(pointer) = self.state.senses.pointers.get(&on) {
                    pointer::ask(space, on, pointer.at, failures, witness);
                }
            }
            other => drop(detect::ask(other, Question { space, on, cause, failures }, witness)),
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
        if failures.is_empty() && self.state.senses.failing.is_empty() {
            return;
        }
        let asks = |&(on, of, who): &(EntityId, Detector, EntityId)| {
            let asker = if matches!(of, Detector::Prompt | Detector::Pointer) { who } else { on };
            (asker, of) == (asked, detector)
        };
        let of = |failure: &Failure| (failure.on, failure.detector, failure.who);
        let failing: BTreeSet<_> = failures.iter().map(of).collect();
        self.state.senses.failing.retain(|known| !asks(known) || failing.contains(known));
        for failure in failures {
            // A witness makes it look twice: each is said once.
            if self.state.senses.failing.insert(of(&failure)) {
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

    /// Asks a detector at its own moment. Whether it must be asked again although nothing moves.
    fn ask_in_round<W: Witness>(
        &mut self,
        on: EntityId,
        detector: Detector,
        cause: Cause,
        witness: &mut W,
    ) -> bool {
        let failures = Failures::default();
        let question = Question { space: self.space(), on, cause, failures: &failures };
        let answer = detect::ask(detector, question, witness);
        self.could_not_tell(on, detector, failures);
        let Some(Answer { changes, learnt, unsettled }) = answer else { return false };
        match learnt {
            Learnt::Nothing => {}
            Learnt::Ray(ray) => drop(self.runtime.watch.rays.insert(on, ray)),
            Learnt::Stand(stand) => drop(self.state.senses.stands.insert(on, stand)),
            Learnt::Awareness(all) => {
                for (who, awareness) in all {
                    self.state.senses.awareness.insert((on, who), awareness);
                }
            }
        }
        if detector.opens() == detector.closes() {
            self.report_as_one(on, &changes, witness);
        } else {
            for change in &changes {
                self.report(change, witness);
            }
        }
        unsettled
    }

    /// Reports that one subject is detected instead of another, in one event.
    fn report_as_one<W: Witness>(&mut self, on: EntityId, changes: &[Change], witness: &mut W) {
        let (mut who, mut was, mut told) = (None, None, None);
        let origin = changes.last().map(|change| self.what_brought(change));
        for change in changes {
            let reported =
                if change.opens { self.open(change, witness) } else { self.close(change) };
            if reported.is_some() {
                *(if change.opens { &mut who } else { &mut was }) = Some(change.who);
                told = change.detector.opens().map(|kind| (kind, change.cause));
            }
        }
        if let Some((kind, cause)) = told {
            let event = Event { on: Some(on), who, was, cause: Some(cause), ..self.event(kind) };
            let event = self.located(event, None);
            let origin = origin.unwrap_or_default();
            self.because(origin, |play| play.dispatch(&event, witness));
        }
    }
}
