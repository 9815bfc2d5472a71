//! Rust handlers: closures that wait for events, and routines: closures that are called by name.

use std::collections::BTreeMap;
use std::fmt;

use crate::describe::{Detector, EntityId, Fault, Selector, StatId, TagId, Trigger};
use crate::model::{Call, Hearers, Listeners, Scene};
use crate::record::Failure;

/// What a handler may return: nothing, or a result whose error is reported.
pub trait Outcome {
    /// The error, if there is one.
    #[doc(hidden)]
    fn outcome(self) -> Result<(), Failure>;
}

impl Outcome for () {
    fn outcome(self) -> Result<(), Failure> {
        Ok(())
    }
}

impl<T, E: fmt::Display> Outcome for Result<T, E> {
    fn outcome(self) -> Result<(), Failure> {
        self.map(drop).map_err(|error| error.to_string().into())
    }
}

impl Outcome for Result<(), Failure> {
    fn outcome(self) -> Self {
        self
    }
}

/// A handler that was added, by which it can be taken away.
///
/// ```
/// use hazuro::{Play, Scene, Time, scene::Trigger};
/// let mut play = Play::new(Scene::builder("Yard").build()?);
/// let greeting = play.on(Trigger::cue("hello"), |_, act| act.add("greetings", 1))?;
/// play.act(hazuro::scene::Action::cue("hello"))?;
/// play.step();
/// play.off(greeting);
/// play.act(hazuro::scene::Action::cue("hello"))?;
/// play.step();
/// assert_eq!(play.count("greetings"), 1);
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct HandlerId(pub(super) usize);

/// All handlers and routines of a play: closures of the sort `R`.
pub(super) struct Handlers<R: ?Sized> {
    all: Vec<Slot<R>>,
    listeners: Listeners<usize>,
    routines: BTreeMap<String, Slot<R>>,
}

/// A handler or routine; empty while it runs, and once it has been taken away.
pub(super) struct Slot<R: ?Sized> {
    pub run: Option<Box<R>>,
    pub gone: bool,
}

impl<R: ?Sized> Default for Handlers<R> {
    fn default() -> Self {
        Self { all: Vec::new(), listeners: Listeners::default(), routines: BTreeMap::new() }
    }
}

/// How a call ended.
pub(super) enum Ended {
    Well,
    Failed(Failure),
    Panicked(String),
    /// It runs already.
    Busy,
    /// There is none.
    Missing,
}

impl<R: ?Sized> Handlers<R> {
    /// Adds a handler that waits for each of these.
    pub fn add(
        &mut self,
        scene: &Scene,
        triggers: &[Trigger],
        run: Box<R>,
    ) -> Result<HandlerId, Fault> {
        let found: Vec<Found> =
            triggers.iter().map(|trigger| found(scene, trigger)).collect::<Result<_, _>>()?;
        let number = self.all.len();
        for (trigger, (detectors, names)) in triggers.iter().zip(found) {
            self.listeners.add(trigger, &detectors, names, (0, number));
        }
        self.all.push(Slot { run: Some(run), gone: false });
        Ok(HandlerId(number))
    }

    /// Takes a handler away. `false` if it is gone already.
    pub fn remove(&mut self, HandlerId(number): HandlerId) -> bool {
        let Some(slot) = self.all.get_mut(number).filter(|slot| !slot.gone) else { return false };
        *slot = Slot { run: None, gone: true };
        self.listeners.remove(number);
        true
    }

    /// Adds a routine; one of this name is replaced.
    pub fn add_routine(&mut self, name: &str, run: Box<R>) {
        self.routines.insert(name.into(), Slot { run: Some(run), gone: false });
    }

    /// Those who wait for the event.
    pub fn hearing(&self, call: &Call<'_>) -> Hearers<usize> {
        self.listeners.to(call)
    }

    pub fn slot(&mut self, whose: Whose<'_>) -> Option<&mut Slot<R>> {
        match whose {
            Whose::Handler(number) => self.all.get_mut(number),
            Whose::Routine(name) => self.routines.get_mut(name),
        }
    }
}

/// The detectors that a trigger means, and the stat and the tag that it names.
type Found = (Vec<EntityId>, (Option<StatId>, Option<TagId>));

/// What a trigger means in a scene.
fn found(scene: &Scene, trigger: &Trigger) -> Result<Found, Fault> {
    let mut detectors = Vec::new();
    let mut tag = None;
    if let Some(selector) = trigger.detectors() {
        detectors = scene.select(selector)?;
        let event = trigger.event();
        let detector = event.detector().ok_or(Fault::NeverDetected { event })?;
        if let Selector::Tag(name) = selector {
            tag = Some(scene.tag_id(name)?);
        }
        // What has such a detector may be given the tag later.
        if !tag.is_some_and(|tag| scene.is_given(tag))
            && !detectors.iter().any(|on| scene.has(*on, detector))
        {
            let name = selector.to_string();
            return Err(Fault::NoDetector { event, detector, name, relative: None });
        }
        match selector {
            // They need not be listed one by one.
            Selector::Any => detectors.clear(),
            Selector::Layer(_) => detectors.retain(|on| scene.has(*on, detector)),
            _ => {}
        }
    }
    let stat = trigger.stat_name().map(|name| scene.stat_id(name)).transpose()?;
    if stat.is_some() && trigger.event().detector() != Some(Detector::Stats) {
        return Err(Fault::NoStat { event: trigger.event() });
    }
    Ok((detectors, (stat, tag)))
}

/// A handler by its number, or a routine by its name.
#[derive(Clone, Copy)]
pub(super) enum Whose<'a> {
    Handler(usize),
    Routine(&'a str),
}

impl<R: ?Sized> fmt::Debug for Handlers<R> {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.debug_struct("Handlers")
            .field("count", &self.all.len())
            .field("routines", &self.routines.keys())
            .finish_non_exhaustive()
    }
}
