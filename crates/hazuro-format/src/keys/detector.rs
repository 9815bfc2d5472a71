//! The keys of a scene file that give a detector other than a zone.

use std::collections::BTreeMap;

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::keys::shape::shaped;

/// A table of keys that may all be left out.
macro_rules! optional {
    ($(#[$about:meta])* $name:ident { $($(#[$doc:meta])* $field:ident: $type:ty,)* }) => {
        $(#[$about])*
        #[derive(Clone, Debug, Default, Deserialize, Serialize, JsonSchema)]
        #[serde(deny_unknown_fields)]
        pub(crate) struct $name {
            $($(#[$doc])* #[serde(skip_serializing_if = "Option::is_none")]
            pub $field: Option<$type>,)*
        }
    };
}
pub(crate) use optional;

shaped! {
    /// Detects bodies that touch the entity's solid, or else its zone or body, or the shape given
    /// here, which blocks nothing.
    TouchKeys {
        /// Send an event for each part of a body. The default is one event for the whole body.
        parts: Option<bool>,
        /// Whether solids that belong to no body count as touching it. The default is no.
        solids: Option<bool>,
        /// The least closing speed, in metres per second. The default is 0.
        at_least: Option<f64>,
        /// The largest gap that counts as touching, in metres. The default is 0.01.
        margin: Option<f64>,
    }
}

shaped! {
    /// A ray, or the shape given here swept along it, asked again and again.
    ProbeKeys {
        /// Where it starts, relative to its entity's origin. The default is the origin.
        from: Option<[f64; 3]>,
        /// Where it ends, relative to its entity's origin. The default is 10 m ahead.
        to: Option<[f64; 3]>,
        /// Seconds between two casts. The default is one tick at the scene's rate.
        every: Option<f64>,
        /// What it can hit: `solids`, `bodies`, `zones`. The default is solids and bodies.
        of: Option<Vec<String>>,
        /// The layers it can hit. The default is all layers.
        layers: Option<Vec<String>>,
        /// Whether it can hit the body it belongs to. The default is no.
        own: Option<bool>,
    }
}

optional! {
    /// Finds out what the body stands on, and how high it is above it.
    FootingKeys {
        /// How far above the ground still counts as standing, in metres. The
        /// default is 0.1.
        margin: f64,
        /// How many seconds it may be higher before it has left the ground. The
        /// default is 0.1.
        grace: f64,
        /// The steepest slope to stand on, in degrees. The default is 50.
        slope: f64,
        /// How far down to look for ground, in metres. The default is 100.
        reach: f64,
        /// The layers that count as ground. The default is all layers.
        layers: Vec<String>,
    }
}

optional! {
    /// A field of view.
    SightKeys {
        /// How far it sees, in metres. The default is 10.
        range: f64,
        /// The whole angle from left to right, in degrees. The default is 60.
        angle: f64,
        /// The whole angle from bottom to top, in degrees. The default is 60.
        rise: f64,
        /// Where the eye is, relative to the entity's origin. The default is nine tenths of
        /// the height of its body, or the origin if it has no body.
        eye: [f64; 3],
        /// Subjects within this distance, in metres, are noticed without being seen. The
        /// default is 0.
        near: f64,
        /// The layers whose solids block the view. The default is all layers.
        hides: Vec<String>,
        /// How many points of a body are tested, from 1 to 64. The default is 5.
        points: u32,
        /// The share of these points that must be visible, above 0 and up to 1. The default is 0.2.
        fraction: f64,
        /// Seconds until a visible subject is noticed. The default is 0.
        notice: f64,
        /// Seconds until a hidden subject is forgotten. The default is 0.
        forget: f64,
        /// Seconds between two looks. The default is 0.1.
        every: f64,
    }
}

optional! {
    /// Keeps a target: the nearest that it admits, or the one with the best score.
    SeekerKeys {
        /// How far away a target may be, in metres. The default is 10.
        range: f64,
        /// By how much another target must be better to replace the present one. The default is 0.5.
        margin: f64,
        /// What to choose among: `solids`, `bodies`, `zones`. The default is bodies.
        of: Vec<String>,
        /// Whether the target must be in line of sight. The default is no.
        sight: bool,
        /// The layers whose solids block the view. The default is all layers.
        hides: Vec<String>,
        /// An expression: the highest is chosen. The target is `who`, the seeker `on`.
        score: String,
        /// Seconds between two choices. The default is 0.1.
        every: f64,
    }
}

optional! {
    /// The offer to use something; under `interact`, something that is used without an offer.
    PromptKeys {
        /// How near the player's body must be, in metres. The default is 2.
        reach: f64,
        /// The extra distance before the offer is withdrawn, in metres. The default is 0.25.
        margin: f64,
        /// The key to press, as W3C UI Events name it. The default is `KeyE`.
        key: String,
        /// What is offered, in a word or two.
        caption: String,
        /// More about it.
        detail: String,
        /// Seconds the key must be held. The default is a single press.
        hold: f64,
        /// Whether it needs line of sight. The default is no.
        sight: bool,
        /// The whole angle ahead of the player in which it must be, in degrees. The default
        /// is 360.
        angle: f64,
        /// Of several prompts for the same key, the one with the highest priority is offered. The
        /// default is 0.
        priority: i32,
        /// Whether it is offered beside other prompts for the same key. The default is no.
        several: bool,
        /// What a player must have; whoever lacks it is refused.
        needs: NeedsKeys,
    }
}

optional! {
    /// What it takes to use something.
    NeedsKeys {
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

optional! {
    /// Detects what a player's pointer does over the entity's solid, body or zone.
    PointerKeys {
        /// The greatest distance from the camera, in metres. The default is 100.
        reach: f64,
        /// Whether the shapes of its children count for it. The default is yes.
        children: bool,
        /// How it is dragged: one of the keys. By default it cannot be dragged.
        drag: DragKeys,
    }
}

optional! {
    /// Along what something is dragged: one of the keys.
    DragKeys {
        /// The plane with this normal, through where it was grabbed.
        plane: [f64; 3],
        /// The line in this direction, through where it was grabbed.
        axis: [f64; 3],
        /// The zone or solid of this entity.
        surface: String,
    }
}

optional! {
    /// Turns a point of a screen into a ray; looks along -Z.
    CameraKeys {
        /// The entity that it looks at, whichever way it is turned itself.
        look_at: String,
        /// The whole angle from bottom to top, in degrees. The default is 50.
        fov: f64,
        /// Without perspective: how many metres are seen from bottom to top.
        orthographic: f64,
        /// Width and height of the picture, in pixels. The default is 1280 by 720.
        viewport: [f64; 2],
        /// The layers a pointer can hit through this camera. The default is all layers.
        layers: Vec<String>,
    }
}
