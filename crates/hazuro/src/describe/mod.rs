//! What an author writes: entities, kinds, detectors, reactions, texts, by name. Nothing is looked up
//! yet.

mod action;
mod admit;
mod allow;
mod body;
mod builder;
mod carry;
mod condition;
mod detectors;
mod entity;
mod error;
mod event;
mod features;
mod id;
mod layers;
pub(crate) mod most;
mod movement;
pub(crate) mod range;
mod reaction;
mod route;
mod shorthand;
mod spawner;
mod stats;
mod teleport;
mod texts;
mod trigger;
mod zone;

pub use action::{Action, Change, HEALTH, Switch, WALK, Wait};
pub(crate) use admit::Lists;
pub use admit::{Admit, Clause};
pub use allow::Allowance;
pub(crate) use body::Makeup;
pub use body::{Body, Legs, Part};
pub use builder::{Floor, SceneBuilder};
pub use carry::{Carry, STRENGTH, Throw};
pub use condition::{Condition, Facts, Ground, Score};
pub use detectors::{
    Among, Camera, Detectors, Drag, Footing, Lens, Limits, Needs, Pointer, Probe, Prompt, Scope,
    Seeker, Sight, Touch,
};
pub(crate) use detectors::{Described, Listed};
pub use entity::{Entity, Kind};
pub use error::{Fault, Field, SceneError, SceneErrors, Step, nearest};
pub use event::{Detector, EventKind};
pub(crate) use features::Features;
pub(crate) use id::{EffectId, KindId, Numbering, TagId};
pub use id::{EntityId, RESERVED_NAMES, ReactionId, Selector, StatId};
pub(crate) use layers::LayerNames;
pub use layers::Layers;
pub(crate) use most::{MAX_DEPTH, MAX_NAME};
pub use movement::{Destination, Move, Pace, Turn};
pub(crate) use range::Range;
pub use reaction::{Again, Reaction};
pub use route::{Blocked, Lead, Route, RouteOrder, Then};
pub use spawner::Spawner;
pub use stats::{Alter, Effect, Grant, Pickup, Stacking, Stat};
pub use teleport::{Choose, Teleport};
pub use texts::Text;
pub(crate) use texts::{Piece, is_placeholder, pieces};
pub use trigger::Trigger;
pub use zone::Zone;
