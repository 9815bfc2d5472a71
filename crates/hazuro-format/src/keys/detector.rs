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
        /// An event for each part of a body; one for the body unless said otherwise.
        parts: Option<bool>,
        /// Solids that belong to no body touch it too; they do not unless said otherwise.
        solids: Option<bool>,
        /// How fast the two must come together, in metres a second; 0 unless said otherwise.
        at_least: Option<f64>,
        /// How near counts as touching, in metres; 0.01 unless said otherwise.
        margin: Option<f64>,
    }
}

shaped! {
    /// A ray, or the shape given here swept along it, asked again and again.
    ProbeKeys {
        /// Where it starts, from its entity's origin; there unless said otherwise.
        from: Option<[f64; 3]>,
        /// Where it ends, from its entity's origin; 10 m ahead unless said otherwise.
        to: Option<[f64; 3]>,
        /// Seconds between two questions; a tick of the scene's rate unless said otherwise.
        every: Option<f64>,
        /// What it meets: `solids`, `bodies`, `zones`; the first two unless said otherwise.
        of: Option<Vec<String>>,
        /// The layers that it meets; all unless said otherwise.
        layers: Option<Vec<String>>,
        /// Whether it meets what it belongs to itself; not unless said otherwise.
        own: Option<bool>,
    }
}

optional! {
    /// Finds out what the body stands on, and how high it is above it.
    FootingKeys {
        /// How far above the ground still counts as standing, in metres; 0.1 unless said
        /// otherwise.
        margin: f64,
        /// How many seconds it may be higher before it has left the ground; 0.1 unless said
        /// otherwise.
        grace: f64,
        /// The steepest slope to stand on, in degrees; 50 unless said otherwise.
        slope: f64,
        /// How far down to look, in metres; 100 unless said otherwise.
        reach: f64,
        /// The layers that can be stood on; all unless said otherwise.
        layers: Vec<String>,
    }
}

optional! {
    /// A field of view.
    SightKeys {
        /// How far it sees, in metres; 10 unless said otherwise.
        range: f64,
        /// The whole angle from left to right, in degrees; 60 unless said otherwise.
        angle: f64,
        /// The whole angle from bottom to top, in degrees; 60 unless said otherwise.
        rise: f64,
        /// Where its eye is, from its entity's origin; nine tenths of the way up its body, if it
        /// has one, unless said otherwise.
        eye: [f64; 3],
        /// Whoever is within so many metres is noticed without being seen; 0 unless said
        /// otherwise.
        near: f64,
        /// The layers whose solids hide; all unless said otherwise.
        hides: Vec<String>,
        /// How many points of a body are looked at, from 1 to 64; 5 unless said otherwise.
        points: u32,
        /// The share of these that must be seen, above 0, to 1; 0.2 unless said otherwise.
        fraction: f64,
        /// How many seconds it takes to notice; 0 unless said otherwise.
        notice: f64,
        /// How many seconds it takes to forget; 0 unless said otherwise.
        forget: f64,
        /// Seconds between two looks; 0.1 unless said otherwise.
        every: f64,
    }
}

optional! {
    /// Keeps a target: the nearest that it admits, or the one with the best score.
    SeekerKeys {
        /// How far away a target may be, in metres; 10 unless said otherwise.
        range: f64,
        /// By how much another must be better to be chosen instead; 0.5 unless said otherwise.
        margin: f64,
        /// What to choose among: `solids`, `bodies`, `zones`; bodies unless said otherwise.
        of: Vec<String>,
        /// Only what no solid hides; hidden or not unless said otherwise.
        sight: bool,
        /// The layers whose solids hide; all unless said otherwise.
        hides: Vec<String>,
        /// An expression: the highest is chosen. The target is `who`, the seeker `on`.
        score: String,
        /// Seconds between two choices; 0.1 unless said otherwise.
        every: f64,
    }
}

optional! {
    /// The offer to use something; under `interact`, something that is used without an offer.
    PromptKeys {
        /// How near the player's body must be, in metres; 2 unless said otherwise.
        reach: f64,
        /// How much farther it may then go, in metres; 0.25 unless said otherwise.
        margin: f64,
        /// The key to press, as W3C UI Events name it; `KeyE` unless said otherwise.
        key: String,
        /// What is offered, in a word or two.
        caption: String,
        /// More about it.
        detail: String,
        /// How many seconds the key must be held; pressed once unless said otherwise.
        hold: f64,
        /// Only if no solid is in between; hidden or not unless said otherwise.
        sight: bool,
        /// The whole angle ahead of the player in which it must be, in degrees; 360 unless said
        /// otherwise.
        angle: f64,
        /// Of rivals the one of highest priority is offered; 0 unless said otherwise.
        priority: i32,
        /// Offered beside others for the same key; not unless said otherwise.
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
        /// How far from the camera it may be, in metres; 100 unless said otherwise.
        reach: f64,
        /// Whether the shapes of its children count for it; they do unless said otherwise.
        children: bool,
        /// How it is dragged: one of the keys; not at all unless said otherwise.
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
        /// The whole angle from bottom to top, in degrees; 50 unless said otherwise.
        fov: f64,
        /// Without perspective: how many metres are seen from bottom to top.
        orthographic: f64,
        /// Width and height of the picture, in pixels; 1280 by 720 unless said otherwise.
        viewport: [f64; 2],
        /// The layers that a pointer meets through it; all unless said otherwise.
        layers: Vec<String>,
    }
}
