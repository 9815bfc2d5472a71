//! The description of a scene: entities, kinds, reactions, texts; and the scene built from it, which a play
//! may let grow.

pub use crate::describe::{
    Action, Admit, Again, Aim, Allowance, Alter, Blocked, Body, Carry, Change, Choose, Clause,
    Condition, Destination, Detector, Effect, Entity, EntityId, EventKind, Facts, Fault, Field,
    Filling, Floor, Formula, GRAVITY, Grant, Ground, HEALTH, JUMP, Kind, Layers, Lead, Legs, Move,
    Named, Need, Owners, Ownership, Pace, Part, Particulars, Per, Pickup, Quantity, RESERVED_NAMES,
    Reaction, ReactionId, ResolvedAction, Route, RouteOrder, STEP, STRENGTH, SceneBuilder,
    SceneError, SceneErrors, Selector, Slot, SlotSort, SlotValue, Spawner, Stacking, Stat, StatId,
    Step, Struck, Switch, Teleport, Text, Then, Throw, Trigger, Turn, WALK, Wait, Zone, angles,
    nearest, slot_reference,
};
pub use crate::model::{EntityKey, Scene};
// The descriptions of detectors, all of them.
pub use crate::describe::detectors::*;
