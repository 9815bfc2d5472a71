//! Conditions: questions about a moment, written by the author of a scene.

use std::fmt;
use std::sync::Arc;

use glam::{DQuat, DVec3};

use crate::Time;

use super::{Detector, EntityId, SlotSort, SlotValue, Switch};

/// What a condition can ask about the moment it is tested at.
pub trait Facts {
    /// The name of an entity.
    fn name(&self, entity: EntityId) -> &str;
    /// The kinds of an entity, those that these build on included, in the order in which their words count.
    fn kinds(&self, entity: EntityId) -> Vec<&str>;
    /// The entity of this name.
    fn find(&self, name: &str) -> Option<EntityId>;
    /// The present moment.
    fn time(&self) -> Time;
    /// The subject of the event, if it has one.
    fn who(&self) -> Option<EntityId>;
    /// The detector of the event, if it has one.
    fn on(&self) -> Option<EntityId>;
    /// A count; 0 if nothing has changed it yet.
    fn count(&self, name: &str) -> i64;
    /// Whether a flag is up; down if nothing has raised it yet.
    fn flag(&self, name: &str) -> bool;
    /// A count of an entity; 0 if nothing has changed it yet.
    fn count_of(&self, entity: EntityId, name: &str) -> i64;
    /// Whether a flag of an entity is up.
    fn flag_of(&self, entity: EntityId, name: &str) -> bool;
    /// The counts of the scene or of an entity, by name.
    fn counts(&self, of: Option<EntityId>) -> Vec<(&str, i64)>;
    /// The flags of the scene or of an entity, by name.
    fn flags(&self, of: Option<EntityId>) -> Vec<(&str, bool)>;
    /// A stat of an entity, with its effects; none if it has no such stat.
    fn stat(&self, entity: EntityId, name: &str) -> Option<f64>;
    /// The stats of an entity, with its effects, by name.
    fn stats(&self, entity: EntityId) -> Vec<(&str, f64)>;
    /// The effects that an entity has, in the order in which it got them.
    fn effects(&self, entity: EntityId) -> Vec<&str>;
    /// What is in a slot of an entity; none if it has no such slot, or nothing is in it.
    fn slot(&self, entity: EntityId, name: &str) -> Option<SlotValue<EntityId>>;
    /// What a slot of an entity is for, empty or not; none if it has no such slot.
    fn slot_sort(&self, entity: EntityId, name: &str) -> Option<SlotSort>;
    /// The tags of an entity, as they are now.
    fn tags(&self, entity: EntityId) -> Vec<&str>;
    /// Whose a thing is now.
    fn owner(&self, thing: EntityId) -> Option<EntityId>;
    /// An entity's parent now.
    fn parent(&self, entity: EntityId) -> Option<EntityId>;
    /// Whether an entity and all its ancestors are on.
    fn is_enabled(&self, entity: EntityId) -> bool;
    /// Whether an entity and all its ancestors are shown.
    fn is_visible(&self, entity: EntityId) -> bool;
    /// Whether a switch of an entity is on, for it and all its ancestors.
    fn is_on(&self, entity: EntityId, switch: Switch) -> bool;
    /// Whether a switch of an entity itself is on, whatever its ancestors' are.
    fn own_switch(&self, entity: EntityId, switch: Switch) -> bool;
    /// The kind to which an entity has been converted.
    fn converted_to(&self, entity: EntityId) -> Option<&str>;
    /// In whose hands a thing is.
    fn holder(&self, thing: EntityId) -> Option<EntityId>;
    /// What somebody holds, in the scene's order.
    fn held_by(&self, holder: EntityId) -> Vec<EntityId>;
    /// The mass of what can be carried; none of anything else.
    fn mass(&self, entity: EntityId) -> Option<f64>;
    /// Whether an entity is about in the play: neither taken out of it, nor still in stock, nor
    /// collected.
    fn is_there(&self, entity: EntityId) -> bool;
    /// Where an entity is in the world.
    fn position(&self, entity: EntityId) -> DVec3;
    /// How an entity is turned in the world; turned by nothing, it faces -Z.
    fn rotation(&self, entity: EntityId) -> DQuat;
    /// How fast an entity moves in the world, in metres per second.
    fn velocity(&self, entity: EntityId) -> DVec3;
    /// The subjects inside a zone, in the scene's order.
    fn occupants(&self, zone: EntityId) -> Vec<EntityId>;
    /// Whom a detector detects now, in the scene's order.
    fn detected(&self, on: EntityId, detector: Detector) -> Vec<EntityId>;
    /// What detects somebody now with a detector of this sort, in the scene's order: the zones that they are
    /// in, the prompts offered to them.
    fn detected_by(&self, who: EntityId, detector: Detector) -> Vec<EntityId>;
    /// What a user interface highlights for somebody: for each prompt that is offered the nearest of it and
    /// its ancestors that is marked so, or else itself; in the scene's order.
    fn highlighted(&self, who: EntityId) -> Vec<EntityId>;
    /// What else is known of the event; nothing outside of one.
    fn particulars(&self) -> Particulars<'_>;
    /// The parts of somebody that a zone or touch detector detects now; none unless it detects them.
    fn parts_detected(&self, on: EntityId, detector: Detector, who: EntityId) -> Vec<&str>;
    /// Where the ray of a probe meets what it hits, as all is now; none if it hits nothing.
    fn struck(&self, probe: EntityId) -> Option<Struck<'_>>;
    /// The zones that cover a place and are on, in the scene's order.
    fn zones_at(&self, place: DVec3) -> Vec<EntityId>;
    /// What a body with footing stands on and how high it is; none before its first step.
    fn ground(&self, body: EntityId) -> Option<Ground>;
    /// How sure a watcher is of somebody, from 0 to 1.
    fn awareness(&self, watcher: EntityId, of: EntityId) -> f64;
}

/// What is under the feet of a body.
///
/// ```
/// use hazuro::{Play, Scene, Time, geometry::Shape, scene::{Body, Entity, Footing}};
/// let floor = Entity::new("floor").at([0.0, -0.5, 0.0]).solid(Shape::Box { size: [9.0, 1.0, 9.0] });
/// let ball = Entity::new("ball")
///     .at([0.0, 3.5, 0.0])
///     .body(Body::new(Shape::Sphere { radius: 0.5 }))
///     .footing(Footing::default());
/// let mut play = Play::new(Scene::builder("Yard").entity(floor).entity(ball).build()?);
/// play.advance(Time::from_secs(0.1));
/// let ground = play.ground("ball")?.unwrap();
/// assert!(!ground.grounded && (ground.height - 3.0).abs() < 1e-9);
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Copy, Debug, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Ground {
    /// Whether it stands.
    pub grounded: bool,
    /// What it stands on, or is above; none if there is nothing within reach.
    pub under: Option<EntityId>,
    /// How far the feet are above it, in metres; less than 0 if they have sunk in, infinite if
    /// there is nothing.
    pub height: f64,
    /// How steep it is there, in radians from level.
    pub slope: f64,
}

/// Where a probe meets what it hits.
///
/// ```
/// use hazuro::{Play, Scene, Time, geometry::Shape, scene::{Entity, Facts, Probe}};
/// let scene = Scene::builder("Yard")
///     .entity(Entity::new("feeler").probe(Probe { to: [0.0, 0.0, -4.0], ..Probe::default() }))
///     .entity(Entity::new("wall").at([0.0, 0.0, -3.0]).solid(Shape::Box { size: [1.0; 3] }))
///     .build()?;
/// let mut play = Play::new(scene);
/// play.advance(Time::from_secs(0.1));
/// let feeler = play.scene().find("feeler").unwrap();
/// assert_eq!(play.facts().struck(feeler).unwrap().distance, 2.5);
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Struck<'a> {
    /// The part of the body that it hits.
    pub part: Option<&'a str>,
    /// Where, in metres.
    pub point: DVec3,
    /// The unit vector out of what it hits.
    pub normal: DVec3,
    /// How far from where the ray starts, in metres.
    pub distance: f64,
}

/// Which way something is turned: the angle about Y, counter-clockwise from above, and the angle above level,
/// both in degrees from -180 to 180. Turned by nothing, it faces -Z.
///
/// ```
/// use hazuro::{glam::DQuat, scene::angles};
/// let [facing, pitch] = angles(DQuat::from_rotation_y(1.0_f64.to_radians()));
/// assert!((facing - 1.0).abs() < 1e-9 && pitch.abs() < 1e-9);
/// ```
pub fn angles(rotation: DQuat) -> [f64; 2] {
    let way = rotation * DVec3::NEG_Z;
    let [facing, pitch] = [(-way.x).atan2(-way.z), way.y.clamp(-1.0, 1.0).asin()];
    [facing.to_degrees() + 0.0, pitch.to_degrees() + 0.0]
}

/// What is known of an event beside its detector and its subject.
///
/// ```
/// use hazuro::{Play, Scene, scene::Facts};
/// let play = Play::new(Scene::builder("Yard").build()?);
/// assert_eq!(play.facts().particulars().point, None);
/// # Ok::<(), hazuro::scene::SceneErrors>(())
/// ```
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub struct Particulars<'a> {
    /// The part of the subject's body that was detected.
    pub part: Option<&'a str>,
    /// Where it was, in metres.
    pub point: Option<DVec3>,
    /// The unit vector out of what was met.
    pub normal: Option<DVec3>,
    /// How fast subject and detector came together along the normal, in metres per second.
    pub speed: Option<f64>,
}

type Test = dyn Fn(&dyn Facts) -> Result<bool, String> + Send + Sync;

/// A question about the moment, with the text it was written as.
///
/// ```
/// use hazuro::scene::Condition;
/// let paid = Condition::new("four tokens", |facts| facts.count("tokens") >= 4);
/// assert_eq!(paid.text(), "four tokens");
/// ```
#[derive(Clone)]
pub struct Condition {
    text: String,
    test: Arc<Test>,
    parts: Vec<Condition>,
}

impl Condition {
    /// A condition that always has an answer.
    pub fn new(
        text: impl Into<String>,
        test: impl Fn(&dyn Facts) -> bool + Send + Sync + 'static,
    ) -> Self {
        Self::fallible(text, move |facts| Ok(test(facts)))
    }

    /// A condition that can fail; the message says why, in full.
    pub fn fallible(
        text: impl Into<String>,
        test: impl Fn(&dyn Facts) -> Result<bool, String> + Send + Sync + 'static,
    ) -> Self {
        Self { text: text.into(), test: Arc::new(test), parts: Vec::new() }
    }

    /// Says of which conditions it is made that must all hold, so that `why` can tell which of
    /// them did not. Whether it holds is decided by its own test.
    #[must_use]
    pub fn made_of(self, parts: Vec<Self>) -> Self {
        Self { parts, ..self }
    }

    /// The text it was written as.
    pub fn text(&self) -> &str {
        &self.text
    }

    /// The conditions that must all hold, if it is made of several.
    pub fn parts(&self) -> &[Self] {
        &self.parts
    }

    pub(crate) fn holds(&self, facts: &dyn Facts) -> Result<bool, String> {
        (self.test)(facts)
    }
}

/// Two conditions are equal if they were written alike.
impl PartialEq for Condition {
    fn eq(&self, other: &Self) -> bool {
        self.text == other.text
    }
}

impl fmt::Debug for Condition {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.debug_tuple("Condition").field(&self.text).finish()
    }
}
