//! Doing actions: from reactions, from handlers, from the host.

use std::fmt;
use std::sync::Arc;

use crate::Time;
use crate::describe::most::MAX_ACTIONS;
use crate::describe::{Action, Destination, EntityId, Facts, Fault, ResolvedAction, Trigger};
use crate::model::{EntityKey, Scene, TargetRef};
use crate::react::{ActionContext, SideEffects};
use crate::record::{By, Entry, Failure, Happening, Place, Problem, Refusal, Step, Stopped};
use crate::space::Space;
use crate::state::{Event, Moment, State};

use super::ending::stop;
use super::handler::{Ended, HandlerId, Handlers, Outcome, Whose};
use super::host_data::HostData;
use super::meant::{Due, Unclear, all_of, find};
use super::say::fill;
use super::watch::Watch;

/// How deep routines may call one another.
const MAX_DEPTH: u32 = 16;

/// What a handler or routine is.
pub(super) type Run = dyn FnMut(&Event, &mut Act<'_>) -> Result<(), Failure> + Send;

/// What stands beside a play's state.
#[derive(Debug, Default)]
pub(super) struct Runtime {
    pub watch: Watch,
    pub handlers: Handlers<Run>,
    pub entries: Vec<Entry>,
    pub after: SideEffects,
    pub language: String,
    /// What the host has lent its handlers.
    pub host: HostData,
}

impl Runtime {
    /// Records what actions have left to be told.
    pub fn tell(&mut self, state: &mut State) {
        for (origin, what) in std::mem::take(&mut self.after.told) {
            let entry = Entry::next(state, what);
            self.entries.push(Entry { origin, ..entry });
        }
    }
}

/// What a handler acts with. Actions take effect at once and in order; what they make other
/// detectors see comes after the handler has returned, at the same instant.
///
/// ```
/// use hazuro::{Play, Scene, geometry::Shape, scene::{Body, Entity, Trigger, Zone}};
/// let scene = Scene::builder("Yard")
///     .entity(Entity::new("ball").body(Body::new(Shape::Sphere { radius: 0.1 })))
///     .entity(Entity::new("pad").zone(Zone::new(Shape::Box { size: [1.0, 1.0, 1.0] })))
///     .build()?;
/// let mut play = Play::new(scene);
/// play.on(Trigger::enter("pad"), |event, act| {
///     act.add("visits", 1);
///     act.disable("pad")
/// })?;
/// play.step();
/// assert_eq!(play.count("visits"), 1);
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
pub struct Act<'a> {
    pub(super) scene: &'a Arc<Scene>,
    pub(super) state: &'a mut State,
    pub(super) runtime: &'a mut Runtime,
    pub(super) event: &'a Event,
    pub(super) by: By,
    /// How many routines have called one another.
    pub(super) depth: u32,
    /// Where the action stands that is done next.
    pub(super) step: Option<Step>,
}

/// All that an [`Act`] acts with, lent to what cannot hold a reference: the engine of a script.
///
/// ```
/// use hazuro::{Lent, Play, Scene, scene::Trigger};
/// fn engine(mut lent: Lent) -> (Lent, i64) {
///     lent.act().add("visits", 1);
///     let visits = lent.act().count("visits");
///     (lent, visits)
/// }
/// let mut play = Play::new(Scene::builder("Yard").build()?);
/// play.on(Trigger::Start, |_, act| assert_eq!(act.lend(engine), 1))?;
/// play.step();
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Debug)]
pub struct Lent {
    scene: Arc<Scene>,
    state: State,
    runtime: Runtime,
    event: Event,
    by: By,
    depth: u32,
}

impl Lent {
    /// To act with what is lent.
    pub fn act(&mut self) -> Act<'_> {
        Act {
            scene: &self.scene,
            state: &mut self.state,
            runtime: &mut self.runtime,
            event: &self.event,
            by: self.by,
            depth: self.depth,
            step: None,
        }
    }
}

impl Act<'_> {
    /// The scene being played.
    pub fn scene(&self) -> &Scene {
        self.scene
    }

    /// The event this is about.
    pub fn event(&self) -> &Event {
        self.event
    }

    /// The present moment, which is that of the event.
    pub fn time(&self) -> Time {
        self.state.now
    }

    /// The present moment as conditions see it.
    pub fn facts(&self) -> impl Facts {
        let Event { who, on, .. } = *self.event;
        Moment { scene: self.scene, state: self.state, who, on, event: Some(self.event) }
    }

    /// The present moment, to be asked what is where; what was done before is true already.
    pub fn space(&mut self) -> Space<'_> {
        for (entity, cause) in std::mem::take(&mut self.runtime.after.disturbed) {
            self.runtime.watch.disturb(self.scene, self.state, entity, cause);
        }
        Space { scene: self.scene, state: self.state, indices: self.runtime.watch.indices() }
    }

    /// Says where in a script that stands which is done next, for the log to tell.
    pub fn at_line(&mut self, place: Place) {
        self.step = Some(Step::Line(Box::new(place)));
    }

    /// Prints something to the log. It counts as an action, of which there is a most in a second.
    pub fn print(&mut self, text: impl Into<String>) {
        if self.may_act() {
            let (time, by) = (self.state.now, self.by);
            self.record(Happening::Printed { time, by, text: text.into() });
        }
    }

    /// Leaves the event of a pointer to the ancestors of what was pointed at too. Without this,
    /// the first handler of it stops it.
    pub fn pass_on(&mut self) {
        self.runtime.after.passed_on = true;
    }

    /// Lends everything to something that must own it; it must give back what it was lent. If it
    /// panics instead, the play is lost.
    pub fn lend<T>(&mut self, to: impl FnOnce(Lent) -> (Lent, T)) -> T {
        let lent = Lent {
            scene: self.scene.clone(),
            state: std::mem::take(self.state),
            runtime: std::mem::take(self.runtime),
            event: self.event.clone(),
            by: self.by,
            depth: self.depth,
        };
        let (lent, outcome) = to(lent);
        (*self.state, *self.runtime) = (lent.state, lent.runtime);
        outcome
    }

    /// Runs a handler whenever `trigger` happens from now on, but not for this event.
    ///
    /// # Errors
    /// If the scene has no such entity, kind, tag or stat, or none of them has such a detector.
    pub fn on<O: Outcome>(
        &mut self,
        trigger: Trigger,
        handler: impl FnMut(&Event, &mut Act<'_>) -> O + Send + 'static,
    ) -> Result<HandlerId, Fault> {
        self.runtime.handlers.add(self.scene, &[trigger], boxed(handler))
    }

    /// Takes a handler away, be it this one. `false` if it is gone already.
    pub fn off(&mut self, handler: HandlerId) -> bool {
        self.runtime.handlers.remove(handler)
    }

    /// Does any action, as a reaction would. `who` and `on` stand for the event's subject and
    /// detector. Whether it was done; if not, the log says why.
    ///
    /// # Errors
    /// If it names what the scene does not have, or somebody this event does not have, or waits.
    pub fn run(&mut self, action: impl Into<Action>) -> Result<bool, Fault> {
        let mut all = true;
        for action in find(self.scene, self.state, &action.into(), Some(self.event))? {
            all &= self.perform(&action);
        }
        Ok(all)
    }

    /// Brings out one of a kind's stock, where an entity is. None if all of it is out.
    ///
    /// # Errors
    /// If the scene has no such kind or entity.
    pub fn spawn(&mut self, kind: &str, at: impl EntityKey) -> Result<Option<EntityId>, Fault> {
        self.scene.kind_id(kind)?;
        let at = self.scene.entity_id(at)?;
        self.runtime.after.spawned = None;
        self.perform(&Action::Spawn { kind: kind.into(), at });
        Ok(self.runtime.after.spawned)
    }

    /// Does the actions of a reaction, as long as `run`, if it is one that can be stopped, is not.
    /// The first of them stands at this place among all of the reaction.
    pub(super) fn perform_all(
        &mut self,
        actions: &[Action<TargetRef>],
        first: usize,
        run: Option<u64>,
    ) {
        for (place, action) in (first..).zip(actions) {
            self.step = Some(Step::Action(place));
            if run.is_some_and(|run| !self.state.runs.under_way.contains_key(&run)) {
                return;
            }
            let meant = action.target().map(|(meant, _)| *meant);
            let Some(each) = meant.and_then(|meant| all_of(self.scene, self.state, meant)) else {
                self.perform_on(action, None);
                continue;
            };
            for entity in each {
                self.perform_on(action, Some(entity));
            }
        }
    }

    /// Does one action of a reaction, maybe to this one of several.
    fn perform_on(&mut self, action: &Action<TargetRef>, one: Option<EntityId>) {
        let (scene, state, event) = (self.scene, &*self.state, self.event);
        match action.translate(&mut Due { scene, state, event, one }) {
            Ok(action) => {
                self.perform(&action);
            }
            Err(Unclear::Nobody(word)) => {
                self.problem(Problem::NobodyMeant { word, action: action.word() });
            }
            Err(Unclear::Fault(fault)) => self.problem(Problem::BadAction(fault)),
        }
    }

    pub(super) fn problem(&mut self, problem: Problem) {
        let event = Some(Box::new(self.event.clone()));
        let (time, by) = (self.state.now, self.by);
        self.record(Happening::Problem { time, by, problem, event });
    }

    /// Records what happens, at the step that it stands at.
    fn record(&mut self, what: Happening) {
        let entry = Entry::next(self.state, what);
        self.runtime.entries.push(Entry { step: self.step.clone(), ..entry });
    }

    /// Counts another action. `false` if there were too many already.
    fn may_act(&mut self) -> bool {
        let done = self.state.count_action();
        if done == MAX_ACTIONS + 1 {
            self.problem(Problem::TooManyActions);
        }
        done <= MAX_ACTIONS
    }

    /// Does one action. Whether it was done.
    pub(super) fn perform(&mut self, action: &ResolvedAction) -> bool {
        if !self.may_act() {
            return false;
        }
        let (time, by) = (self.state.now, self.by);
        if matches!(action, Action::Move(to) if to.to == Destination::Point)
            && self.event.point().is_none()
        {
            self.problem(Problem::NoPoint);
            return false;
        }
        let origin = self.state.causes.now;
        // What it causes comes of the entry that will say it was done.
        let this = self.state.causes.next();
        self.state.causes.now = this;
        let outcome = match action {
            Action::Teleport(teleport) => self.go_elsewhere(teleport),
            Action::Drop(what) => self.let_go(*what, None),
            Action::Throw(throw) => self.let_go(throw.what, Some(throw)),
            Action::Grab { what, to } => self.take_in_hand(*what, *to),
            action => self.in_context().apply(action),
        };
        self.state.causes.now = origin;
        if let Err(why) = outcome {
            self.record(Happening::Refused { time, by, action: action.clone(), why });
            return false;
        }
        let what = if let Action::Say { key, to } = action {
            let text = fill(self.scene, self.state, &self.runtime.language, key, self.event);
            Happening::Said { time, by, key: key.clone(), text, to: *to }
        } else {
            Happening::Did { time, by, action: action.clone() }
        };
        self.record(what);
        self.runtime.after.acted = Some(this);
        self.runtime.tell(self.state);
        self.state.causes.now = this;
        match action {
            Action::Call(name) => self.call(name),
            Action::Stop { name, of } => {
                if let Some(reaction) = self.scene.reaction_named(name) {
                    let entries = &mut self.runtime.entries;
                    let why = (reaction, Stopped::Stop);
                    stop(self.state, entries, why, |run| of.is_none() || run.who == *of);
                }
            }
            _ => {}
        }
        self.state.causes.now = origin;
        true
    }

    /// Lets somebody take a thing in their hands by themselves, if it is within reach.
    pub(super) fn reach_for(&mut self, what: EntityId, who: EntityId) -> bool {
        let (scene, state) = (self.scene, &*self.state);
        let may =
            state.within_reach(scene, what, who).and_then(|()| state.may_take(scene, what, who));
        self.perform_if(may, Action::Grab { what, to: who })
    }

    /// Lets somebody make a thing theirs by dragging it, until they let go.
    pub(super) fn seize(&mut self, what: EntityId, who: EntityId) {
        let is_new = self.state.owner(what) != Some(who);
        let may = self.state.may_take(self.scene, what, who);
        if self.perform_if(may, Action::Own { what, to: who })
            && let Some(owned) = self.state.values.owned.get_mut(&what).filter(|_| is_new)
        {
            owned.by_hand = true;
        }
    }

    /// Does an action if it may be done; else records why not. Whether it was done.
    fn perform_if(&mut self, may: Result<(), Refusal>, action: ResolvedAction) -> bool {
        let (time, by) = (self.state.now, self.by);
        let Err(why) = may else { return self.perform(&action) };
        self.record(Happening::Refused { time, by, action, why });
        false
    }

    pub(super) fn in_context(&mut self) -> ActionContext<'_> {
        let (scene, state, event) = (&**self.scene, &mut *self.state, self.event);
        ActionContext { scene, state, event, after: &mut self.runtime.after }
    }

    fn call(&mut self, name: &str) {
        if self.depth >= MAX_DEPTH {
            self.problem(Problem::TooDeep(name.into()));
            return;
        }
        self.depth += 1;
        let step = self.step.take();
        let ended = self.run_closure(Whose::Routine(name));
        self.step = step;
        self.depth -= 1;
        match ended {
            Ended::Well => {}
            Ended::Failed(failure) => self.problem(Problem::Handler(failure)),
            Ended::Panicked(why) => self.problem(Problem::Panic(why)),
            Ended::Busy => self.problem(Problem::TooDeep(name.into())),
            Ended::Missing => self.problem(Problem::NoRoutine(name.into())),
        }
    }
}

impl fmt::Debug for Act<'_> {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.debug_struct("Act")
            .field("by", &self.by)
            .field("event", self.event)
            .finish_non_exhaustive()
    }
}

pub(super) fn boxed<O: Outcome>(
    mut run: impl FnMut(&Event, &mut Act<'_>) -> O + Send + 'static,
) -> Box<Run> {
    Box::new(move |event, act| run(event, act).outcome())
}
