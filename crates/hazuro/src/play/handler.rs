//! Rust handlers: closures that wait for events, and routines: closures that are called by name.

use std::collections::BTreeMap;
use std::fmt;

use crate::describe::{Detector, EntityId, Fault, Trigger};
use crate::model::{Call, Group, Hearers, Listeners, Meant, Scene, Subjects, Wanted};
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
        let meant: Vec<Meant> =
            triggers.iter().map(|trigger| meant(scene, trigger)).collect::<Result<_, _>>()?;
        let number = self.all.len();
        for (trigger, meant) in triggers.iter().zip(meant) {
            self.listeners.add(trigger, &meant, (0, number));
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

    /// Lets those who wait for whatever is of a kind or in a layer or has a tag wait for these, too.
    pub fn meet(&mut self, scene: &Scene, new: impl Iterator<Item = EntityId>) {
        new.for_each(|entity| self.listeners.meet(entity, scene.thing(entity)));
    }

    /// Adds a routine; one of this name is replaced.
    pub fn add_routine(&mut self, name: &str, run: Box<R>) {
        self.routines.insert(name.into(), Slot { run: Some(run), gone: false });
    }

    /// Those who wait for the event.
    pub fn hearing(&self, call: &Call<'_>, met: &dyn Fn(Wanted) -> bool) -> Hearers<usize> {
        self.listeners.to(call, met)
    }

    pub fn slot(&mut self, whose: Whose<'_>) -> Option<&mut Slot<R>> {
        match whose {
            Whose::Handler(number) => self.all.get_mut(number),
            Whose::Routine(name) => self.routines.get_mut(name),
        }
    }
}

/// What a trigger means in a scene.
fn meant(scene: &Scene, trigger: &Trigger) -> Result<Meant, Fault> {
    let Some(selector) = trigger.detectors() else { return Ok(Meant::default()) };
    let event = trigger.event();
    let detector = event.detector().ok_or(Fault::NeverDetected { event })?;
    let (mut detectors, group) = scene.select_group(selector)?;
    if !detectors.iter().any(|on| scene.has(*on, detector))
        && !group.is_some_and(|group| scene.may_gain(group, detector))
    {
        let name = selector.to_string();
        return Err(Fault::NoDetector { event, detector, name, relative: None });
    }
    match group {
        // They need not be listed one by one.
        Some(Group::Any) => detectors.clear(),
        Some(Group::Layers(_)) => detectors.retain(|on| scene.has(*on, detector)),
        _ => {}
    }
    let stat = trigger.stat_name().map(|name| scene.stat_id(name)).transpose()?;
    if stat.is_some() && detector != Detector::Stats {
        return Err(Fault::NoStat { event });
    }
    let subjects = trigger.subjects().map(|subjects| scene.select_group(subjects)).transpose()?;
    Ok(Meant { detectors, group, stat, subjects: subjects.and_then(Subjects::of) })
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
