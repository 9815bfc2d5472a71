//! The tables of kinds, entities and children: what they have in common is listed once, with the features
//! and the detectors of the core.

use std::collections::BTreeMap;

use hazuro::scene::{Entity, Field, Kind, Limits, Prompt, Slot};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::body::BodyKeys;
use crate::code::Code;
use crate::keys::one_or_many::Names;
use crate::keys::quantity::SlotKeys;
use crate::keys::shape::pose_keys;
use crate::number::{PickupKeys, StatKeys};
use crate::read::{Reader, slot_keys};
use crate::table::Table;

/// The table of a kind, an entity or a child: some keys of its own, and those that all of them share.
macro_rules! table_of {
    (
        $(#[$about:meta])* $name:ident of $owner:ident { $($(#[$doc:meta])* $field:ident: $type:ty,)* }
        {
            values { $($(#[$is:meta])* $value:ident: $plain:ty, $own_value:ident
                $set_value:literal $get_value:literal;)* }
            tables { $($(#[$what:meta])* $table:ident: $described:ty, $own:ident $of:ident
                $set:literal $get:literal $get_of:literal;)* }
        }
        {
            $($(#[$detects:meta])* $detector:ident $key:ident $key_of:ident $set_key:literal;)*
        }
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
            $($(#[$is])*
            #[serde(skip_serializing_if = "Option::is_none")]
            pub $value: Option<$plain>,)*
            $($(#[$what])*
            #[serde(skip_serializing_if = "Option::is_none")]
            pub $table: Option<<$described as Table>::Keys>,)*
            $($(#[$detects])*
            #[serde(skip_serializing_if = "Option::is_none")]
            pub $key: Option<<hazuro::scene::$detector as Table>::Keys>,)*
            /// Used without an offer.
            #[serde(skip_serializing_if = "Option::is_none")]
            pub interact: Option<<Prompt as Table>::Keys>,
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
            /// Numbers on it, by name.
            #[serde(default, skip_serializing_if = "BTreeMap::is_empty")]
            pub stats: BTreeMap<String, StatKeys>,
            /// What it has of its own for reactions, by name: a number, a text, true or false,
            /// `{ entity = "..." }`; of a kind also `{ needs = "entity" }` and the like, which each
            /// entity fills.
            #[serde(default, skip_serializing_if = "BTreeMap::is_empty")]
            pub slots: BTreeMap<String, SlotKeys>,
            /// What moves along with it, is switched, spawned and reset with it, by name: `leaf` of `gate` is
            /// the entity `gate/leaf`.
            #[serde(default, skip_serializing_if = "BTreeMap::is_empty")]
            pub children: BTreeMap<String, ChildKeys>,
        }

        impl $name {
            /// Gives a kind or an entity what these keys describe, but for the keys that only its table has.
            fn describe(&self, owner: $owner, reader: &mut Reader<'_>, field: &Field) -> $owner {
                let mut owner = owner.tags(self.tags.clone()).layers(self.layers.clone());
                for kind in self.kind.iter().flat_map(Names::all) {
                    owner = owner.kind(kind);
                }
                for (name, child) in &self.children {
                    let field = field.key("children").key(name);
                    owner = owner.child(child.read(name, reader, &field));
                }
                $(if let Some(given) = self.$value {
                    owner = owner.$value(given);
                })*
                $(if let Some(keys) = &self.$table
                    && let Some(described) =
                        Table::read(keys, reader, &field.key(stringify!($table)))
                {
                    owner = owner.$table(described);
                })*
                $(if let Some(keys) = &self.$key
                    && let Some(described) = Table::read(keys, reader, &field.key(stringify!($key)))
                {
                    owner = owner.$key(described);
                })*
                if let Some(keys) = &self.interact
                    && let Some(prompt) = Prompt::read(keys, reader, &field.key("interact"))
                {
                    owner = owner.prompt(Prompt { quiet: true, ..prompt });
                }
                if self.prompt.is_some() && self.interact.is_some() {
                    let help = "keep `prompt` if players shall be shown that they can use it";
                    let message = "`prompt` and `interact` are two ways to use the same thing";
                    reader.error(&field.key("interact"), Code::TwoPrompts, message, help);
                }
                let cooldown = (self.cooldown, self.cooldown_shared);
                if let Some(limits) = reader.limits(cooldown, (self.once, self.limit), field) {
                    owner = owner.limits(limits);
                }
                for (name, stat) in &self.stats {
                    let field = field.key("stats").key(name);
                    if let Some(stat) = Table::read(stat, reader, &field) {
                        owner = owner.stat(name, stat);
                    }
                }
                for (name, keys) in &self.slots {
                    match reader.slot(keys, &field.key("slots").key(name)) {
                        Some(Slot::Filled(value)) => owner = owner.slot(name, value),
                        Some(Slot::Needed(sort)) => owner = owner.needs_slot(name, sort),
                        None => {}
                    }
                }
                owner
            }

            /// The keys of a kind or an entity, but for those that only its table has.
            fn described(owner: &$owner) -> Self {
                let children = owner.own_children().iter();
                let stats = owner.own_stats().iter();
                let limits = owner.own_limits().unwrap_or_default();
                let detectors = owner.own_detectors();
                let mut keys = Self {
                    kind: Names::of(owner.own_kinds()),
                    tags: owner.own_tags().to_vec(),
                    layers: owner.own_layers().to_vec(),
                    $($value: owner.$own_value(),)*
                    $($table: owner.$own().map(Table::keys),)*
                    $($key: detectors.$key.as_ref().map(Table::keys),)*
                    cooldown: (limits.cooldown != Limits::default().cooldown)
                        .then_some(limits.cooldown),
                    cooldown_shared: limits.shared.then_some(true),
                    limit: limits.limit,
                    stats: stats.map(|(name, stat)| (name.clone(), stat.keys())).collect(),
                    slots: slot_keys(owner.own_slots()),
                    children: children
                        .map(|child| (child.name().to_owned(), ChildKeys::of(child)))
                        .collect(),
                    ..Self::default()
                };
                if detectors.prompt.as_ref().is_some_and(|prompt| prompt.quiet) {
                    keys.interact = keys.prompt.take();
                }
                keys
            }
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

/// As [`table_of`], with the keys of a place.
macro_rules! placed {
    ($(#[$about:meta])* $name:ident { $($own:tt)* } $($features:tt)*) => {
        table_of! {
            $(#[$about])*
            $name of Entity {
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
            $($features)*
        }

        impl $name {
            /// The entity of this name, where it is and with what all of them share.
            fn placed(&self, name: &str, reader: &mut Reader<'_>, field: &Field) -> Entity {
                let entity = Entity::new(name);
                let entity = match reader.pose_if((self.at, self.turn, self.rotation), field) {
                    Some(pose) => entity.at(pose),
                    None => entity,
                };
                self.describe(entity, reader, field)
            }

            /// The keys of where an entity is, and of what all of them share.
            fn of_placed(entity: &Entity) -> Self {
                let (at, turn, rotation) = match entity.own_pose().as_ref().map(pose_keys) {
                    // At the origin, if that is said.
                    Some((None, None, None)) => (Some([0.0; 3]), None, None),
                    keys => keys.unwrap_or_default(),
                };
                Self { at, turn, rotation, ..Self::described(entity) }
            }
        }
    };
}

macro_rules! with_detectors {
    ($($features:tt)*) => { hazuro::for_each_detector!(tables { $($features)* }); };
}

macro_rules! tables {
    ($features:tt $($detectors:tt)*) => {
        table_of! {
            /// What entities of one sort share.
            KindKeys of Kind {
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
            $features { $($detectors)* }
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
            $features { $($detectors)* }
        }

        placed! {
            /// What comes with an entity.
            ChildKeys {}
            $features { $($detectors)* }
        }
    };
}

hazuro::for_each_feature!(with_detectors);

impl KindKeys {
    /// The kind of this name.
    pub fn read(&self, name: &str, reader: &mut Reader<'_>, field: &Field) -> Kind {
        let kind = Kind::new(name).stock(self.stock.unwrap_or(0));
        let taken = self.taken.iter().flat_map(Names::all);
        let kind = taken.fold(kind, |kind, whom| kind.for_all(whom.as_str()));
        self.describe(kind, reader, field)
    }

    /// The keys of a kind.
    pub fn of(kind: &Kind) -> Self {
        let taken: Vec<String> = kind.taken().iter().map(ToString::to_string).collect();
        let stock = (kind.stock_size() > 0).then(|| kind.stock_size());
        Self { taken: Names::of(&taken), stock, ..Self::described(kind) }
    }
}

impl EntityKeys {
    /// The entity that they describe.
    pub fn read(&self, reader: &mut Reader<'_>, field: &Field) -> Entity {
        let entity = self.placed(&self.name, reader, field);
        match &self.parent {
            Some(parent) => entity.parent(parent),
            None => entity,
        }
    }

    /// The keys of an entity.
    pub fn of(entity: &Entity) -> Self {
        let parent = entity.parent_name().map(Into::into);
        Self { name: entity.name().into(), parent, ..Self::of_placed(entity) }
    }
}

impl ChildKeys {
    /// The child of this name.
    fn read(&self, name: &str, reader: &mut Reader<'_>, field: &Field) -> Entity {
        self.placed(name, reader, field)
    }

    /// The keys of a child.
    pub fn of(child: &Entity) -> Self {
        Self::of_placed(child)
    }
}

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
