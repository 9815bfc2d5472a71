//! The structure of a scene file. Its schema is made from these types.

use std::collections::BTreeMap;

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::keys::one_or_many::{Names, TextKeys};
use crate::keys::quantity::SlotKeys;
use crate::keys::reaction::ReactionKeys;
use crate::keys::shape::shaped;
use crate::number::{EffectKeys, PickupKeys, StatKeys};

shaped! {
    /// A shape that detects and blocks nothing.
    #[derive(Default, Serialize)]
    ZoneKeys {
        /// Report `inside` again each time this many seconds of a stay have passed.
        #[serde(skip_serializing_if = "Option::is_none")]
        inside_every: Option<f64>,
    }
}

shaped! {
    /// A shape that blocks bodies and stops rays.
    #[derive(Default, Serialize)]
    SolidKeys {}
}

shaped! {
    /// What makes an entity move by itself and be detected: one shape, or named parts.
    #[derive(Default, Serialize)]
    BodyKeys {
        /// Several named shapes instead of one.
        #[serde(skip_serializing_if = "Option::is_none")]
        parts: Option<Vec<PartKeys>>,
        /// A walker's speed in metres per second; without it the body is driven.
        #[serde(skip_serializing_if = "Option::is_none")]
        walk: Option<f64>,
        /// How high a walker jumps, in metres. The default is 0: it cannot jump.
        #[serde(skip_serializing_if = "Option::is_none")]
        jump: Option<f64>,
        /// The highest step a walker takes up or down, in metres. The default is 0.3.
        #[serde(skip_serializing_if = "Option::is_none")]
        step: Option<f64>,
        /// The steepest slope a walker walks on, in degrees. The default is 50.
        #[serde(skip_serializing_if = "Option::is_none")]
        slope: Option<f64>,
        /// Whether it blocks walkers and what falls. The default is no, but
        /// for what can be carried.
        #[serde(skip_serializing_if = "Option::is_none")]
        blocks: Option<bool>,
    }
}

shaped! {
    /// A named shape of a body.
    #[derive(Default, Serialize)]
    PartKeys {
        /// Its name; needed.
        #[serde(skip_serializing_if = "Option::is_none")]
        name: Option<String>,
        /// Its centre, from the body's origin.
        #[serde(skip_serializing_if = "Option::is_none")]
        at: Option<[f64; 3]>,
        /// Degrees about Y, counter-clockwise from above.
        #[serde(skip_serializing_if = "Option::is_none")]
        turn: Option<f64>,
        /// A quaternion, as in glTF.
        #[serde(skip_serializing_if = "Option::is_none")]
        rotation: Option<[f64; 4]>,
    }
}

/// Who may set off a detector. A list is met by any of its words; every list must be met.
#[derive(Clone, Debug, Default, Deserialize, Serialize, JsonSchema)]
#[serde(deny_unknown_fields, default)]
pub(crate) struct AdmitKeys {
    /// Has one of these tags.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub tags: Vec<String>,
    /// Is of one of these kinds.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub kinds: Vec<String>,
    /// Has one of these names.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub names: Vec<String>,
    /// Is in one of these layers.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub layers: Vec<String>,
    /// Players only.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub players: Option<bool>,
    /// An expression over `who`, `on`, `count` and `time`, tested when somebody would be detected
    /// and after each action.
    #[serde(rename = "if", skip_serializing_if = "Option::is_none")]
    pub condition: Option<String>,
    /// But not who meets any of these lists.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub not: Option<RefuseKeys>,
}

/// What may not set off a detector: whatever meets any of these lists.
#[derive(Clone, Debug, Default, Deserialize, Serialize, JsonSchema)]
#[serde(deny_unknown_fields, default)]
pub(crate) struct RefuseKeys {
    /// Has one of these tags.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub tags: Vec<String>,
    /// Is of one of these kinds.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub kinds: Vec<String>,
    /// Has one of these names.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub names: Vec<String>,
    /// Is in one of these layers.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub layers: Vec<String>,
}

/// A table with some keys of its own and those that kinds and entities share.
macro_rules! featured {
    (
        $(#[$about:meta])* $name:ident { $($(#[$doc:meta])* $field:ident: $type:ty,)* }
        [$($(#[$detects:meta])* $key:ident: $detector:ident,)*]
    ) => {
        $(#[$about])*
        #[derive(Clone, Debug, Default, Deserialize, Serialize, JsonSchema)]
        #[serde(deny_unknown_fields)]
        pub(crate) struct $name {
            $($(#[$doc])* pub $field: $type,)*
            /// The kind it is of, or a list of kinds: the words of the first count most.
            #[serde(skip_serializing_if = "Option::is_none")]
            pub kind: Option<Names>,
            /// Words on it.
            #[serde(default, skip_serializing_if = "Vec::is_empty")]
            pub tags: Vec<String>,
            /// The layers it is in, of at most 64; `default` if none are given.
            #[serde(default, skip_serializing_if = "Vec::is_empty")]
            pub layers: Vec<String>,
            /// How many times as large its shapes are, from 0.001 to 1000.
            #[serde(skip_serializing_if = "Option::is_none")]
            pub scale: Option<f64>,
            /// Whether it is enabled at the start. The default is true.
            #[serde(skip_serializing_if = "Option::is_none")]
            pub enabled: Option<bool>,
            /// Whether it is visible at the start. The default is true.
            #[serde(skip_serializing_if = "Option::is_none")]
            pub visible: Option<bool>,
            /// A shape that detects.
            #[serde(skip_serializing_if = "Option::is_none")]
            pub zone: Option<ZoneKeys>,
            /// Who may set off its detectors. The default is every subject.
            #[serde(skip_serializing_if = "Option::is_none")]
            pub admit: Option<AdmitKeys>,
            /// A shape that blocks.
            #[serde(skip_serializing_if = "Option::is_none")]
            pub solid: Option<SolidKeys>,
            /// What makes it move by itself and be detected.
            #[serde(skip_serializing_if = "Option::is_none")]
            pub body: Option<BodyKeys>,
            $($(#[$detects])*
            #[serde(skip_serializing_if = "Option::is_none")]
            pub $key: Option<<hazuro::scene::$detector as $crate::table::Table>::Keys>,)*
            /// Used without an offer.
            #[serde(skip_serializing_if = "Option::is_none")]
            pub interact: Option<<hazuro::scene::Prompt as $crate::table::Table>::Keys>,
            /// Through which the pointer of the player it belongs to points.
            #[serde(skip_serializing_if = "Option::is_none")]
            pub camera: Option<$crate::camera::CameraKeys>,
            /// Seconds in which its detectors do not act again for the same subject.
            #[serde(skip_serializing_if = "Option::is_none")]
            pub cooldown: Option<f64>,
            /// Whether all subjects share one cooldown. The default is one for each subject.
            #[serde(skip_serializing_if = "Option::is_none")]
            pub cooldown_shared: Option<bool>,
            /// Its detectors act only once.
            #[serde(skip_serializing_if = "Option::is_none")]
            pub once: Option<bool>,
            /// How many times each of its detectors may act. The default is no limit.
            #[serde(skip_serializing_if = "Option::is_none")]
            pub limit: Option<u64>,
            /// Prompts are offered to it, and it points and presses.
            #[serde(skip_serializing_if = "Option::is_none")]
            pub player: Option<bool>,
            /// Numbers on it, by name.
            #[serde(default, skip_serializing_if = "BTreeMap::is_empty")]
            pub stats: BTreeMap<String, StatKeys>,
            /// What it has of its own for reactions, by name: a number, a text, true or false,
            /// `{ entity = "..." }`; of a kind also `{ needs = "entity" }` and the like, which each
            /// entity fills.
            #[serde(default, skip_serializing_if = "BTreeMap::is_empty")]
            pub slots: BTreeMap<String, SlotKeys>,
            /// What whoever comes into its zone collects.
            #[serde(skip_serializing_if = "Option::is_none")]
            pub pickup: Option<PickupKeys>,
            /// Makes it something to carry.
            #[serde(skip_serializing_if = "Option::is_none")]
            pub carry: Option<$crate::motion::CarryKeys>,
            /// Lets it belong to one body at a time.
            #[serde(skip_serializing_if = "Option::is_none")]
            pub ownership: Option<$crate::motion::OwnershipKeys>,
            /// The stops that it travels to.
            #[serde(skip_serializing_if = "Option::is_none")]
            pub route: Option<$crate::motion::RouteKeys>,
            /// Keeps a number of a kind in the play.
            #[serde(skip_serializing_if = "Option::is_none")]
            pub spawner: Option<$crate::motion::SpawnerKeys>,
            /// What to highlight when it or something below it is offered.
            #[serde(skip_serializing_if = "Option::is_none")]
            pub highlight: Option<bool>,
            /// What moves along with it, is switched, spawned and reset with it, by name: `leaf` of `gate` is
            /// the entity `gate/leaf`.
            #[serde(default, skip_serializing_if = "BTreeMap::is_empty")]
            pub children: BTreeMap<String, ChildKeys>,
        }

        impl Shared for $name {
            fn named(&self) -> NamedHere<'_> {
                let Self { stats, slots, pickup, body, .. } = self;
                NamedHere { stats, slots, pickup: pickup.as_ref(), body: body.as_ref() }
            }

            fn children(&self) -> &BTreeMap<String, ChildKeys> {
                &self.children
            }
        }
    };
}

/// As [`featured`], with the keys of a place.
macro_rules! placed {
    ($(#[$about:meta])* $name:ident { $($own:tt)* } $detectors:tt) => {
        featured! {
            $(#[$about])*
            $name {
                $($own)*
                /// Its place in its parent's frame, in metres; Y is up.
                #[serde(skip_serializing_if = "Option::is_none")]
                at: Option<[f64; 3]>,
                /// Degrees about Y, counter-clockwise from above.
                #[serde(skip_serializing_if = "Option::is_none")]
                turn: Option<f64>,
                /// A quaternion, as in glTF.
                #[serde(skip_serializing_if = "Option::is_none")]
                rotation: Option<[f64; 4]>,
                /// Findings of `check` that are no mistake here: by code, why not.
                #[serde(default, skip_serializing_if = "BTreeMap::is_empty")]
                allow: BTreeMap<String, String>,
            }
            $detectors
        }
    };
}

macro_rules! kinds_and_entities {
    ($($(#[$about:meta])* $name:ident $key:ident $of:ident $set:literal;)*) => {
        featured! {
            /// What entities of one sort share.
            KindKeys {
                /// Whose kind it is though they do not name it: `tag:lamp`, `gate_*` for names, `*` for all,
                /// or a list of these.
                #[serde(rename = "for", skip_serializing_if = "Option::is_none")]
                taken: Option<Names>,
                /// How many more of it are kept ready to be spawned.
                #[serde(skip_serializing_if = "Option::is_none")]
                stock: Option<u32>,
                /// Findings of `check` that are no mistake here: by code, why not.
                #[serde(default, skip_serializing_if = "BTreeMap::is_empty")]
                allow: BTreeMap<String, String>,
            }
            [$($(#[$about])* $key: $name,)*]
        }

        placed! {
            /// Anything in a scene.
            EntityKeys {
                /// Its name, which no other entity has.
                name: String,
                /// The entity it moves along with.
                #[serde(skip_serializing_if = "Option::is_none")]
                parent: Option<String>,
            }
            [$($(#[$about])* $key: $name,)*]
        }

        placed! {
            /// What comes with an entity.
            ChildKeys {
            }
            [$($(#[$about])* $key: $name,)*]
        }
    };
}

hazuro::for_each_detector!(kinds_and_entities);

/// What kinds, entities and children have in common.
pub(crate) trait Shared {
    /// What has a name here.
    fn named(&self) -> NamedHere<'_>;
    /// Its children, by name.
    fn children(&self) -> &BTreeMap<String, ChildKeys>;

    /// What has a name here and in its children.
    fn all_named<'a>(&'a self, found: &mut Vec<NamedHere<'a>>) {
        found.push(self.named());
        for child in self.children().values() {
            child.all_named(found);
        }
    }
}

/// What has a name in the table of a kind, an entity or a child.
pub(crate) struct NamedHere<'a> {
    pub stats: &'a BTreeMap<String, StatKeys>,
    pub slots: &'a BTreeMap<String, SlotKeys>,
    pub pickup: Option<&'a PickupKeys>,
    pub body: Option<&'a BodyKeys>,
}

/// The level ground below everything.
#[derive(Clone, Copy, Debug, Deserialize, Serialize, JsonSchema)]
#[serde(untagged, expecting = "a height, or false")]
pub(crate) enum FloorKeys {
    /// So high, in metres.
    Height(f64),
    /// Whether there is one.
    There(bool),
}

/// What holds for the whole scene.
#[derive(Clone, Debug, Default, Deserialize, Serialize, JsonSchema)]
#[serde(deny_unknown_fields, default)]
pub(crate) struct HeadKeys {
    /// The scene's title.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub name: Option<String>,
    /// Ticks per second, from 1 to 10000. The default is 60.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub rate: Option<u32>,
    /// The seed of everything random. The default is 1.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub seed: Option<u64>,
    /// The acceleration of what falls, in metres per second squared. The default is 9.81.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub gravity: Option<f64>,
    /// The height of the level ground below everything, or `false` for none. The default is the
    /// height of the lowest thing to stand on, and at most 0.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub floor: Option<FloorKeys>,
    /// Counts that do not start at 0, or that no action changes.
    #[serde(skip_serializing_if = "BTreeMap::is_empty")]
    pub counts: BTreeMap<String, i64>,
    /// Flags that are up to begin with, or that no action changes.
    #[serde(skip_serializing_if = "BTreeMap::is_empty")]
    pub flags: BTreeMap<String, bool>,
    /// The language of texts that name none. The default is `en`.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub language: Option<String>,
    /// Files of script functions, from the folder of this one.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub scripts: Vec<String>,
    /// Findings of `check` that are no mistake anywhere in this scene: by code, why not.
    #[serde(skip_serializing_if = "BTreeMap::is_empty")]
    pub allow: BTreeMap<String, String>,
}

/// A scene: entities, kinds, reactions and texts.
#[derive(Clone, Debug, Default, Deserialize, Serialize, JsonSchema)]
#[serde(deny_unknown_fields, default)]
pub(crate) struct SceneKeys {
    /// What holds for the whole scene.
    pub scene: HeadKeys,
    /// What entities of one sort share, by name.
    #[serde(skip_serializing_if = "BTreeMap::is_empty")]
    pub kind: BTreeMap<String, KindKeys>,
    /// The entities; events of one instant are in this order.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub entity: Vec<EntityKeys>,
    /// The reactions; those to one event happen in this order.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub reaction: Vec<ReactionKeys>,
    /// Changes to stats that end by themselves, by name.
    #[serde(skip_serializing_if = "BTreeMap::is_empty")]
    pub effect: BTreeMap<String, EffectKeys>,
    /// Texts by key, each a text or a table of texts by language. `{who}` and `{on}` stand for
    /// the names of subject and detector.
    #[serde(skip_serializing_if = "BTreeMap::is_empty")]
    pub texts: BTreeMap<String, TextKeys>,
}

/// The JSON Schema of scene files.
pub fn scene_schema() -> serde_json::Value {
    schemars::schema_for!(SceneKeys).to_value()
}
