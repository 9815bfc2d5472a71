//! A running scene: the tick, what it reports, and how a host takes part.

mod act;
mod asking;
mod clearance;
mod closure;
mod converting;
mod decisions;
mod dispatch;
mod door;
mod ending;
mod growing;
mod handler;
mod hearing;
mod host;
mod host_data;
mod instant;
mod intents;
mod listening;
mod looking;
mod meant;
mod offer;
mod pending;
mod places;
mod players;
mod report;
mod rounds;
mod running;
mod say;
mod sides;
mod snapshot;
mod stepping;
mod tick;
mod verbs;
mod watch;

use std::sync::Arc;

pub use act::{Act, Lent};
use act::{Runtime, boxed};
pub use handler::{HandlerId, Outcome};
use instant::Instant;
pub use offer::Offer;
pub use running::Running;
pub use snapshot::Snapshot;
use watch::Watch;

use crate::Time;
use crate::describe::{Detector, EntityId, Facts, Fault, Ground, Trigger, range};
use crate::detect::probe::ProbeRay;
use crate::detect::{pointer, sight};
use crate::geometry::{Pose, Ray};
use crate::model::{EntityKey, Scene};
use crate::record::Entry;
use crate::space::Space;
use crate::state::{Awareness, Event, Moment, Sighting, State};
use crate::why::{Unwitnessed, Witness};

/// A running scene, stepped tick by tick.
///
/// What a host does between two steps, such as [`drive`](Self::drive), takes effect at the start
/// of the next step. A step covers its start but not its end: what happens at the very end is
/// reported by the step after.
///
/// ```
/// use hazuro::{Play, Scene, geometry::Shape, scene::{Body, Entity, EventKind, Zone}};
/// let scene = Scene::builder("Yard")
///     .rate(10)
///     .entity(
///         Entity::new("ball").at([-5.0, 0.0, 0.0]).body(Body::new(Shape::Sphere { radius: 0.5 })),
///     )
///     .entity(Entity::new("pad").zone(Zone::new(Shape::Box { size: [1.0, 1.0, 1.0] })))
///     .build()?;
/// let mut play = Play::new(scene);
/// play.drive("ball", [5.0, 0.0, 0.0])?;
/// let events: Vec<_> = play.step().iter().filter_map(|entry| entry.event()).collect();
/// // From 5 m to 1 m before the middle at 100 m/s.
/// assert_eq!(events[1].kind, EventKind::Enter);
/// assert_eq!(events[1].time.secs(), 0.04);
/// assert_eq!(events[2].kind, EventKind::Exit);
/// assert_eq!(events[2].time.secs(), 0.06);
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Debug)]
pub struct Play {
    scene: Arc<Scene>,
    state: State,
    rate: u32,
    /// A moment, and when the next tick begins after it.
    next_tick: (Time, Time),
    // Beside the state:
    runtime: Runtime,
    instant: Instant,
}

impl Play {
    /// A play of this scene, at time 0, before anything has been detected.
    pub fn new(scene: impl Into<Arc<Scene>>) -> Self {
        let mut scene = scene.into();
        let state = State::new(&scene);
        // The scene may come from a play in which entities have been converted. By itself each can be.
        let _ = converting::fit(&mut scene, &state);
        let watch = Watch::new(&scene, &state);
        let runtime = Runtime { watch, ..Runtime::default() };
        let (rate, next_tick) = (scene.rate(), (Time::MAX, Time::MAX));
        Self { state, rate, next_tick, scene, runtime, instant: Instant::default() }
    }

    /// The scene being played.
    pub fn scene(&self) -> &Scene {
        &self.scene
    }

    /// Ticks a second.
    pub fn rate(&self) -> u32 {
        self.rate
    }

    /// Plays on at another tick rate than the scene's. What happens stays the same.
    ///
    /// # Errors
    /// If `rate` is not from 1 to 10,000 ticks per second.
    pub fn set_rate(&mut self, rate: u32) -> Result<(), Fault> {
        range::TICKS.check(f64::from(rate))?;
        (self.rate, self.next_tick) = (rate, (Time::MAX, Time::MAX));
        Ok(())
    }

    /// The present moment.
    pub fn now(&self) -> Time {
        self.state.now
    }

    /// Plays to the start of the next tick; gives what happened, in order.
    pub fn step(&mut self) -> &[Entry] {
        let until = self.next_tick();
        self.advance(until)
    }

    /// Plays until `until`, which need not be the start of a tick; gives what happened, in order.
    pub fn advance(&mut self, until: Time) -> &[Entry] {
        self.advance_witnessed(until, &mut Unwitnessed)
    }

    /// As [`advance`](Self::advance), with somebody listening to the gates.
    pub fn advance_witnessed<W: Witness>(&mut self, until: Time, witness: &mut W) -> &[Entry] {
        self.run(until, false, witness);
        &self.runtime.entries
    }

    /// Plays through the next moment at which something happens, which all happens, or until
    /// `until` if nothing does before; gives what happened, in order.
    pub fn advance_moment<W: Witness>(&mut self, until: Time, witness: &mut W) -> &[Entry] {
        self.run(until, true, witness);
        &self.runtime.entries
    }

    /// What happened in the last step, in order.
    pub fn entries(&self) -> &[Entry] {
        &self.runtime.entries
    }

    /// Runs a handler whenever `trigger` happens, after the scene's reactions and the handlers
    /// added before.
    ///
    /// A handler may return a `Result`; its error is reported as [`Problem::Handler`](crate::Problem::Handler).
    ///
    /// # Errors
    /// If the scene has no such entity, kind, tag or stat, or none of them has such a detector.
    pub fn on<O: Outcome>(
        &mut self,
        trigger: Trigger,
        handler: impl FnMut(&Event, &mut Act<'_>) -> O + Send + 'static,
    ) -> Result<HandlerId, Fault> {
        self.runtime.handlers.add(&self.scene, &[trigger], boxed(handler))
    }

    /// As [`on`](Self::on), for several triggers with one handler; once for an event that several
    /// of them mean.
    ///
    /// ```
    /// use hazuro::{Play, Scene, geometry::Shape};
    /// use hazuro::scene::{Body, Entity, Selector, Trigger, Zone};
    /// let scene = Scene::builder("Yard")
    ///     .entity(Entity::new("ball").body(Body::new(Shape::Sphere { radius: 0.1 })))
    ///     .entity(Entity::new("pad").zone(Zone::new(Shape::Box { size: [1.0; 3] })))
    ///     .entity(Entity::new("hall").zone(Zone::new(Shape::Box { size: [9.0; 3] })))
    ///     .build()?;
    /// let mut play = Play::new(scene);
    /// let any = [Trigger::enter(Selector::Any), Trigger::exit("pad")];
    /// play.on_each(any, |event, act| act.add(event.kind.word(), 1))?;
    /// play.step();
    /// play.place("ball", [2.0, 0.0, 0.0])?;
    /// play.step();
    /// assert_eq!((play.count("enter"), play.count("exit")), (2, 1));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    ///
    /// # Errors
    /// As [`on`](Self::on), for the first of them that cannot be waited for; then none is.
    pub fn on_each<O: Outcome>(
        &mut self,
        triggers: impl IntoIterator<Item = Trigger>,
        handler: impl FnMut(&Event, &mut Act<'_>) -> O + Send + 'static,
    ) -> Result<HandlerId, Fault> {
        let triggers: Vec<Trigger> = triggers.into_iter().collect();
        self.runtime.handlers.add(&self.scene, &triggers, boxed(handler))
    }

    /// Takes a handler away. `false` if it is gone already.
    pub fn off(&mut self, handler: HandlerId) -> bool {
        self.runtime.handlers.remove(handler)
    }

    /// Gives a closure a name, by which [`Action::Call`](crate::scene::Action::Call) runs it. One of the same name is
    /// replaced.
    pub fn routine<O: Outcome>(
        &mut self,
        name: &str,
        run: impl FnMut(&Event, &mut Act<'_>) -> O + Send + 'static,
    ) {
        self.runtime.handlers.add_routine(name, boxed(run));
    }

    /// Speaks this language from now on, where the scene's texts are in it. What has been said is
    /// no part of the state.
    pub fn set_language(&mut self, language: impl Into<String>) {
        self.runtime.language = language.into();
    }

    /// Where an entity is in the world.
    ///
    /// # Errors
    /// If the scene has no such entity.
    pub fn pose(&self, who: impl EntityKey) -> Result<Pose, Fault> {
        let who = self.scene.entity_id(who)?;
        Ok(self.state.pose(&self.scene, who, self.state.now))
    }

    /// A count; 0 if nothing has changed it yet.
    pub fn count(&self, name: &str) -> i64 {
        self.facts().count(name)
    }

    /// The present moment as conditions see it, without an event.
    pub fn facts(&self) -> impl Facts {
        Moment { scene: &self.scene, state: &self.state, who: None, on: None, event: None }
    }

    /// The present moment as conditions see it, with an entity as `who`.
    ///
    /// # Errors
    /// If the scene has no such entity.
    pub fn facts_about(&self, who: Option<EntityId>) -> Result<impl Facts, Fault> {
        let who = who.map(|who| self.scene.entity_id(who)).transpose()?;
        Ok(Moment { scene: &self.scene, state: &self.state, who, on: None, event: None })
    }

    /// The subjects inside a zone, in the scene's order.
    ///
    /// # Errors
    /// If the scene has no such entity.
    pub fn occupants(&self, zone: impl EntityKey) -> Result<Vec<EntityId>, Fault> {
        let zone = self.scene.entity_id(zone)?;
        Ok(self.state.detected(zone, Detector::Zone))
    }

    /// Whose a thing is now, if it belongs to anybody.
    ///
    /// # Errors
    /// If the scene has no such entity.
    pub fn owner(&self, thing: impl EntityKey) -> Result<Option<EntityId>, Fault> {
        Ok(self.state.owner(self.scene.entity_id(thing)?))
    }

    /// Whether a player may be told of a thing: neither it nor an ancestor of it is the
    /// [secret](crate::scene::Ownership::secret) of somebody else.
    ///
    /// # Errors
    /// If the scene has no such entity.
    pub fn knows(&self, player: impl EntityKey, thing: impl EntityKey) -> Result<bool, Fault> {
        let [player, thing] = [self.scene.entity_id(player)?, self.scene.entity_id(thing)?];
        Ok(self.state.knows(&self.scene, player, thing))
    }

    /// What a detector of an entity detects now, in the scene's order: the bodies that touch it or that it
    /// sees, what its probe hits, what its feet stand on, its target, the players that it is offered to.
    ///
    /// # Errors
    /// If the scene has no such entity.
    pub fn detected(&self, on: impl EntityKey, detector: Detector) -> Result<Vec<EntityId>, Fault> {
        let on = self.scene.entity_id(on)?;
        Ok(self.state.detected(on, detector))
    }

    /// What an entity holds in its hands.
    ///
    /// # Errors
    /// If the scene has no such entity.
    pub fn in_hands(&self, who: impl EntityKey) -> Result<Vec<EntityId>, Fault> {
        let who = self.scene.entity_id(who)?;
        Ok(self.state.held_by(who).collect())
    }

    /// The names of the parts of a body that are inside a zone now; none unless the body is.
    ///
    /// # Errors
    /// If the scene has no such entity.
    pub fn parts_inside(
        &self,
        zone: impl EntityKey,
        who: impl EntityKey,
    ) -> Result<Vec<&str>, Fault> {
        let (zone, who) = (self.scene.entity_id(zone)?, self.scene.entity_id(who)?);
        Ok(self.state.parts_detected(&self.scene, (zone, Detector::Zone), who))
    }

    /// The names of the parts of a body that touch something with a touch detector now; none unless the
    /// body does.
    ///
    /// # Errors
    /// If the scene has no such entity.
    pub fn parts_touching(
        &self,
        what: impl EntityKey,
        who: impl EntityKey,
    ) -> Result<Vec<&str>, Fault> {
        let (what, who) = (self.scene.entity_id(what)?, self.scene.entity_id(who)?);
        Ok(self.state.parts_detected(&self.scene, (what, Detector::Touch), who))
    }

    /// What a body with a footing stands on, and how high it is above it; none before it was
    /// first asked.
    ///
    /// # Errors
    /// If the scene has no such entity.
    pub fn ground(&self, body: impl EntityKey) -> Result<Option<Ground>, Fault> {
        let body = self.scene.entity_id(body)?;
        Ok(self.state.senses.stands.get(&body).map(|stand| stand.ground))
    }

    /// What is offered to a player now, in the scene's order: for a user interface to draw.
    ///
    /// # Errors
    /// If the scene has no such entity.
    pub fn offers(&self, player: impl EntityKey) -> Result<Vec<Offer<'_>>, Fault> {
        let player = self.scene.entity_id(player)?;
        let offer = |prompt: EntityId| {
            let spec = self.scene.thing(prompt).senses.as_ref()?.prompt.as_ref()?;
            let held = self.state.senses.holdings.get(&player).filter(|held| held.prompt == prompt);
            let held = held.map_or(Time::ZERO, |held| self.state.now - held.since);
            let progress =
                if spec.config.hold > 0.0 { held.secs() / spec.config.hold } else { 0.0 };
            let prompt = Offer {
                prompt,
                highlight: *self.state.senses.highlights.get(&(player, prompt)).unwrap_or(&prompt),
                key: &spec.config.key,
                caption: &spec.config.caption,
                detail: &spec.config.detail,
                hold: spec.config.hold,
                progress,
            };
            Some(prompt)
        };
        Ok(self.offered(player).into_iter().filter_map(offer).collect())
    }

    /// The ray through a point of a player's screen, in pixels from the top left; none if no
    /// camera is the player's.
    ///
    /// # Errors
    /// If the scene has no such entity, or the point is more than a million pixels away.
    pub fn screen_ray(
        &self,
        player: impl EntityKey,
        pixel: [f64; 2],
    ) -> Result<Option<Ray>, Fault> {
        let player = self.scene.entity_id(player)?;
        pointer::screen_ray(self.space(), player, pixel)
    }

    /// The target of a seeker, if it has one.
    ///
    /// # Errors
    /// If the scene has no such entity.
    pub fn target(&self, seeker: impl EntityKey) -> Result<Option<EntityId>, Fault> {
        Ok(self.detected(seeker, Detector::Seeker)?.first().copied())
    }

    /// What a watcher knows of those it has seen, in the scene's order.
    ///
    /// # Errors
    /// If the scene has no such entity.
    pub fn sightings(&self, watcher: impl EntityKey) -> Result<Vec<Sighting>, Fault> {
        let watcher = self.scene.entity_id(watcher)?;
        let range = (watcher, EntityId::LOWEST)..=(watcher, EntityId::HIGHEST);
        let known = self.state.senses.awareness.range(range);
        let sightings = known.filter_map(|((_, who), awareness)| {
            let (seen, place) = awareness.seen?;
            let last_seen = if awareness.in_view { self.state.now } else { seen };
            let Awareness { level, in_view, .. } = *awareness;
            let spotted = self.state.stay(watcher, Detector::Sight, *who).is_some();
            Some(Sighting { who: *who, awareness: level, in_view, spotted, last_seen, place })
        });
        Ok(sightings.collect())
    }

    /// From where a watcher looks, along -Z of the pose; none if it is no watcher.
    ///
    /// # Errors
    /// If the scene has no such entity.
    pub fn eye(&self, watcher: impl EntityKey) -> Result<Option<Pose>, Fault> {
        let watcher = self.scene.entity_id(watcher)?;
        Ok(sight::eye(&self.scene, &self.state, watcher))
    }

    /// The last ray of a probe; none before it was first asked.
    ///
    /// # Errors
    /// If the scene has no such entity.
    pub fn probe_ray(&self, probe: impl EntityKey) -> Result<Option<ProbeRay>, Fault> {
        let probe = self.scene.entity_id(probe)?;
        Ok(self.runtime.watch.rays.get(&probe).copied())
    }

    /// The present moment, to be asked what is where.
    pub fn space(&self) -> Space<'_> {
        Space { scene: &self.scene, state: &self.state, indices: self.runtime.watch.indices() }
    }

    /// Everything that lives in the play.
    pub fn state(&self) -> &State {
        &self.state
    }

    fn next_tick(&mut self) -> Time {
        let now = self.state.now;
        if self.next_tick.0 != now {
            self.next_tick = (now, Time::of_tick(now.tick(self.rate) + 1, self.rate));
        }
        self.next_tick.1
    }
}
