//! Doing actions: from reactions, from handlers, from the host.

use std::fmt;

use smallvec::SmallVec;

use crate::Time;
use crate::react::apply;
use crate::scene::{
    Action, Change, Destination, Detector, EntityId, EntityKey, EventKind, Facts, Fault, Meant,
    Scene,
};
use crate::space::Space;
use crate::state::{Cause, Event, Moment, State};

use super::entry::{By, Entry, Problem, Refusal};
use super::watch::Watch;

/// What actions have left to see to.
#[derive(Debug, Default)]
pub(super) struct Effects {
    pub disturbed: SmallVec<[(EntityId, Cause); 4]>,
    pub cues: SmallVec<[Event; 1]>,
    /// Whether anything was done at all.
    pub acted: bool,
    /// Whether the event is left to others.
    pub passed_on: bool,
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
    pub(super) scene: &'a Scene,
    pub(super) state: &'a mut State,
    pub(super) event: &'a Event,
    pub(super) by: By,
    pub(super) entries: &'a mut Vec<Entry>,
    pub(super) effects: &'a mut Effects,
    pub(super) watch: &'a mut Watch,
}

impl Act<'_> {
    /// The scene being played.
    pub fn scene(&self) -> &Scene {
        self.scene
    }

    /// The present moment, which is that of the event.
    pub fn time(&self) -> Time {
        self.state.now
    }

    /// The present moment as conditions see it.
    pub fn facts(&self) -> impl Facts {
        Moment { scene: self.scene, state: self.state, who: self.event.who, on: self.event.on }
    }

    /// The present moment, to be asked what is where; what was done before is true already.
    pub fn space(&mut self) -> Space<'_> {
        for (entity, cause) in std::mem::take(&mut self.effects.disturbed) {
            self.watch.disturb(self.scene, self.state, entity, cause);
        }
        Space { scene: self.scene, state: self.state, indices: self.watch.indices() }
    }

    /// Leaves the event of a pointer to the ancestors of what was pointed at too. Without this,
    /// whoever handles it stops it.
    pub fn pass_on(&mut self) {
        self.effects.passed_on = true;
    }

    /// A count; 0 if nothing has changed it yet.
    pub fn count(&self, name: &str) -> i64 {
        self.facts().count(name)
    }

    /// Adds to a count.
    pub fn add(&mut self, count: &str, amount: i64) {
        self.perform(&Action::Count { name: count.into(), change: Change::Add(amount) });
    }

    /// Sets a count.
    pub fn set(&mut self, count: &str, value: i64) {
        self.perform(&Action::Count { name: count.into(), change: Change::Set(value) });
    }

    /// Sends a cue, with the subject and detector of this event.
    pub fn cue(&mut self, name: &str) {
        self.perform(&Action::Cue(name.into()));
    }

    /// Switches an entity on.
    ///
    /// # Errors
    /// If the scene has no such entity.
    pub fn enable(&mut self, what: impl EntityKey) -> Result<(), Fault> {
        let what = self.scene.entity_id(what)?;
        self.perform(&Action::Enable(what));
        Ok(())
    }

    /// Switches an entity and its children off.
    ///
    /// # Errors
    /// If the scene has no such entity.
    pub fn disable(&mut self, what: impl EntityKey) -> Result<(), Fault> {
        let what = self.scene.entity_id(what)?;
        self.perform(&Action::Disable(what));
        Ok(())
    }

    /// Puts an entity where another one is.
    ///
    /// # Errors
    /// If the scene has no such entity.
    pub fn teleport(&mut self, what: impl EntityKey, to: impl EntityKey) -> Result<(), Fault> {
        let (what, to) = (self.scene.entity_id(what)?, self.scene.entity_id(to)?);
        self.perform(&Action::Teleport { what, to });
        Ok(())
    }

    /// Does any action, as a reaction would. `who` and `on` stand for the event's subject and
    /// detector.
    ///
    /// # Errors
    /// If it names what the scene does not have, or somebody this event does not have.
    pub fn run(&mut self, action: impl Into<Action>) -> Result<(), Fault> {
        let action = find(self.scene, &action.into(), Some(self.event))?;
        self.perform(&action);
        Ok(())
    }

    /// Does the actions of a reaction.
    pub(super) fn perform_all(&mut self, actions: &[Action<Meant>]) {
        for action in actions {
            let found = action.try_map(|meant, _| match meant {
                Meant::Entity(entity) => Ok(*entity),
                Meant::Who => self.event.who.ok_or("who"),
                Meant::On => self.event.on.ok_or("on"),
            });
            match found {
                Ok(action) => self.perform(&action),
                Err(word) => {
                    let problem = Problem::NobodyMeant { word, action: action.word() };
                    self.entries.push(Entry::Problem {
                        time: self.state.now,
                        by: self.by,
                        problem,
                    });
                }
            }
        }
    }

    /// Does one action.
    pub(super) fn perform(&mut self, action: &Action<EntityId>) {
        let (time, by) = (self.state.now, self.by);
        if let Some(why) = self.refusal(action) {
            self.entries.push(Entry::Refused { time, by, action: action.clone(), why });
            return;
        }
        let to_point = matches!(action, Action::Move(to) if to.to == Destination::Point);
        if to_point && self.event.at.is_none() {
            let problem = Problem::NobodyMeant { word: "point", action: action.word() };
            self.entries.push(Entry::Problem { time, by, problem });
            return;
        }
        let effect = apply(self.scene, self.state, action, self.event.at);
        self.entries.push(match action {
            Action::Say(key) => {
                let text = fill(self.scene, key, self.event);
                Entry::Said { time, by, key: key.clone(), text }
            }
            action => Entry::Did { time, by, action: action.clone() },
        });
        self.effects.acted = true;
        self.effects.disturbed.extend(effect.disturbed);
        if let Some(name) = effect.cue {
            let Event { on, who, tick, .. } = *self.event;
            let cue = Event { on, who, cue: Some(name), ..Event::bare(EventKind::Cue, time, tick) };
            self.effects.cues.push(cue);
        }
    }

    /// Why the action must not be done now.
    fn refusal(&self, action: &Action<EntityId>) -> Option<Refusal> {
        let Action::Teleport { what, .. } = action else {
            return None;
        };
        let arrived_here = self.event.who == Some(*what)
            && self.event.kind != EventKind::Exit
            && self.event.on.is_some_and(|zone| {
                self.state
                    .stay(zone, Detector::Zone, *what)
                    .is_some_and(|stay| stay.cause == Cause::Teleport)
            });
        arrived_here.then_some(Refusal::JustArrived)
    }
}

/// The action with its names looked up.
///
/// # Errors
/// If it names what the scene or the event does not have, or takes an impossible time.
pub(super) fn find(
    scene: &Scene,
    action: &Action,
    event: Option<&Event>,
) -> Result<Action<EntityId>, Fault> {
    if let Action::Move(movement) = action
        && !(0.0..=Time::MAX.secs()).contains(&movement.over)
    {
        let need = "a number of seconds from 0";
        return Err(Fault::Number { value: movement.over, need });
    }
    if let Action::Say(key) = action
        && !scene.texts().contains_key(key)
    {
        let nearest = crate::scene::nearest(key, scene.texts().keys().map(String::as_str));
        return Err(Fault::Unknown { what: "text", name: key.clone(), nearest });
    }
    action.try_map(|name, _| {
        let nobody = |role| Fault::NobodyMeant {
            word: name.clone(),
            event: event.map_or("the host", |event| event.kind.word()),
            role,
        };
        match name.as_str() {
            "who" => event.and_then(|event| event.who).ok_or_else(|| nobody("subject")),
            "on" => event.and_then(|event| event.on).ok_or_else(|| nobody("detector")),
            name => scene.entity_id(name),
        }
    })
}

/// A text with its placeholders filled.
fn fill(scene: &Scene, key: &str, event: &Event) -> String {
    let name = |entity: Option<EntityId>| entity.map_or("nobody", |entity| scene.name(entity));
    let text = scene.texts().get(key).map_or(key, String::as_str);
    text.replace("{who}", name(event.who)).replace("{on}", name(event.on))
}

impl fmt::Debug for Act<'_> {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.debug_struct("Act")
            .field("by", &self.by)
            .field("event", self.event)
            .finish_non_exhaustive()
    }
}
