//! The description of a scene: entities, kinds, reactions, texts; and the scene built from it, which never
//! changes.

pub use crate::describe::{
    Action, Admit, Again, Allowance, Alter, Among, Blocked, Body, Camera, Carry, Change, Choose,
    Clause, Condition, Destination, Detector, Detectors, Drag, Effect, Entity, EntityId, EventKind,
    Facts, Fault, Field, Floor, Footing, Grant, Ground, HEALTH, Kind, Layers, Lead, Legs, Lens,
    Limits, Move, Needs, Pace, Part, Pickup, Pointer, Probe, Prompt, RESERVED_NAMES, Reaction,
    ReactionId, Route, RouteOrder, STRENGTH, SceneBuilder, SceneError, SceneErrors, Scope, Score,
    Seeker, Selector, Sight, Spawner, Stacking, Stat, StatId, Step, Switch, Teleport, Text, Then,
    Throw, Touch, Trigger, Turn, WALK, Wait, Zone, nearest,
};
pub use crate::model::{EntityKey, Scene};
