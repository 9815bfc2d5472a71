//! The tables of detectors.

use std::collections::BTreeMap;

use hazuro::scene::{
    Among, Drag, Field, Footing, Formula, Needs, Pointer, Probe, Prompt, Seeker, Sight, Touch,
};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::code::Code;
use crate::read::Reader;
use crate::table::{Degrees, Expression, Nested, Notation, Words, key_name, notation, table};

table! {
    /// Detects bodies that touch the entity's solid, or else its zone or body, or the shape given
    /// here, which blocks nothing.
    TouchKeys of shaped Touch {
        /// Send an event for each part of a body instead of one for the whole body.
        parts: bool,
        /// Whether solids that belong to no body count as touching it.
        solids: bool,
        /// The least closing speed, in metres per second.
        at_least: f64,
        /// The largest gap that counts as touching, in metres.
        margin: f64,
    }
}

table! {
    /// A ray, or the shape given here swept along it, asked again and again.
    ProbeKeys of shaped Probe {
        /// Where it starts, relative to its entity's origin.
        from: [f64; 3],
        /// Where it ends, relative to its entity's origin.
        to: [f64; 3],
        /// Seconds between two casts. The default is one tick at the scene's rate.
        every: Option<f64>,
        /// What it can hit: `solids`, `bodies`, `zones`.
        among = "of": Among as Words,
        /// The layers it can hit. The default is all layers.
        layers: Vec<String>,
        /// Whether it can hit the body it belongs to.
        own: bool,
    }
}

table! {
    /// Finds out what the body stands on, and how high it is above it.
    FootingKeys of Footing {
        /// How far above the ground still counts as standing, in metres.
        margin: f64,
        /// How many seconds it may be higher before it has left the ground.
        grace: f64,
        /// The steepest slope to stand on, in degrees.
        slope: f64 as Degrees,
        /// How far down to look for ground, in metres.
        reach: f64,
        /// The layers that count as ground. The default is all layers.
        layers: Vec<String>,
    }
}

table! {
    /// A field of view.
    SightKeys of Sight {
        /// How far it sees, in metres.
        range: f64,
        /// The whole angle from left to right, in degrees.
        angle: f64 as Degrees,
        /// The whole angle from bottom to top, in degrees.
        rise: f64 as Degrees,
        /// Where the eye is, relative to the entity's origin. The default is nine tenths of
        /// the height of its body, or the origin if it has no body.
        eye: Option<[f64; 3]>,
        /// Subjects within this distance, in metres, are noticed without being seen.
        near: f64,
        /// The layers whose solids block the view. The default is all layers.
        hides: Vec<String>,
        /// How many points of a body are tested, from 1 to 64.
        points: u32,
        /// The share of these points that must be visible, above 0 and up to 1.
        fraction: f64,
        /// Seconds until a visible subject is noticed.
        notice: f64,
        /// Seconds until a hidden subject is forgotten.
        forget: f64,
        /// Seconds between two looks.
        every: f64,
    }
}

table! {
    /// Keeps a target: the nearest that it admits, or the one with the best score.
    SeekerKeys of Seeker {
        /// How far away a target may be, in metres.
        range: f64,
        /// By how much another target must be better to replace the present one.
        margin: f64,
        /// What to choose among: `solids`, `bodies`, `zones`.
        among = "of": Among as Words,
        /// Whether the target must be in line of sight.
        sight: bool,
        /// The layers whose solids block the view. The default is all layers.
        hides: Vec<String>,
        /// An expression: the highest is chosen. The target is `who`, the seeker `on`.
        score: Option<Formula> as Expression,
        /// Seconds between two choices.
        every: f64,
    }
}

table! {
    /// The offer to use something; under `interact`, something that is used without an offer.
    PromptKeys of Prompt except quiet {
        /// How near the player's body must be, in metres.
        reach: f64,
        /// The extra distance before the offer is withdrawn, in metres.
        margin: f64,
        /// The key to press, as W3C UI Events name it.
        key: String,
        /// What is offered, in a word or two.
        caption: String,
        /// More about it.
        detail: String,
        /// Seconds the key must be held; 0 is a single press.
        hold: f64,
        /// Whether it needs line of sight.
        sight: bool,
        /// The whole angle ahead of the player in which it must be, in degrees.
        angle: f64 as Degrees,
        /// Of several prompts for the same key, the one with the highest priority is offered.
        priority: i32,
        /// Whether it is offered beside other prompts for the same key.
        several: bool,
        /// What a player must have; a player that lacks it is refused.
        needs: Needs as Nested,
    }
}

table! {
    /// What it takes to use something.
    NeedsKeys of Needs {
        /// Counts of the scene that must be at least so high.
        counts: BTreeMap<String, i64>,
        /// Counts of the player that must be at least so high.
        own_counts: BTreeMap<String, i64>,
        /// Stats of the player that must be at least so high.
        stats: BTreeMap<String, f64>,
        /// Tags that the player must have, all of them.
        tags: Vec<String>,
    }
}

table! {
    /// Detects what a player's pointer does over the entity's solid, body or zone.
    PointerKeys of Pointer {
        /// The greatest distance from the camera, in metres.
        reach: f64,
        /// Whether the shapes of its children count for it.
        children: bool,
        /// How it is dragged: one of the keys. By default it cannot be dragged.
        drag: Option<Drag> as Along,
    }
}

/// Along what something is dragged: one of the keys.
#[derive(Clone, Debug, Default, PartialEq, Deserialize, Serialize, JsonSchema)]
#[serde(deny_unknown_fields, default)]
pub(crate) struct DragKeys {
    /// The plane with this normal, through where it was grabbed.
    #[serde(skip_serializing_if = "Option::is_none")]
    plane: Option<[f64; 3]>,
    /// The line in this direction, through where it was grabbed.
    #[serde(skip_serializing_if = "Option::is_none")]
    axis: Option<[f64; 3]>,
    /// The zone or solid of this entity.
    #[serde(skip_serializing_if = "Option::is_none")]
    surface: Option<String>,
}

/// One of the keys that say along what something is dragged.
pub(crate) struct Along;

impl Notation<Option<Drag>> for Along {
    type Written = Option<DragKeys>;

    fn write(drag: &Option<Drag>) -> Option<DragKeys> {
        let none = DragKeys::default();
        Some(match drag.clone()? {
            Drag::Plane(plane) => DragKeys { plane: Some(plane), ..none },
            Drag::Axis(axis) => DragKeys { axis: Some(axis), ..none },
            Drag::Surface(name) => DragKeys { surface: Some(name), ..none },
        })
    }

    fn read(
        written: &Option<DragKeys>,
        reader: &mut Reader<'_>,
        field: &Field,
    ) -> Option<Option<Drag>> {
        let Some(DragKeys { plane, axis, surface }) = written.clone() else { return Some(None) };
        let given = [plane.map(Drag::Plane), axis.map(Drag::Axis), surface.map(Drag::Surface)];
        let mut given = given.into_iter().flatten();
        let (Some(one), None) = (given.next(), given.next()) else {
            let help = "give one of: plane = [0, 1, 0], axis = [1, 0, 0], surface = \"name\"";
            reader.error(field, Code::OneDrag, "something is dragged along one thing", help);
            return None;
        };
        Some(Some(one))
    }
}
