//! What kinds and entities have in common.

use super::{Detector, Detectors, Entity, Limits, Slot, Stat};

/// What a kind gives or an entity has, each at most once: first what is one value in a file, then what is a
/// table there. A row has what it is, its name and type, its getters, and what its setter and getter say.
/// Fields, setters, getters and the keys of files are made from it.
#[doc(hidden)]
#[macro_export]
macro_rules! for_each_feature {
    ($apply:ident) => {
        $apply! {
            values {
                /// How many times as large its shapes are, from 0.001 to 1000.
                scale: f64, own_scale
                    "Make all its shapes this many times as large, from 0.001 to 1000. Where it is, and its \
                     children, stay as they are."
                    "The scale described here, if any.";
                /// Whether it is enabled at the start. The default is true.
                enabled: bool, own_enabled
                    "Enables or disables it at the start. The default is enabled."
                    "The switch described here, if any.";
                /// Whether it is visible at the start. The default is true.
                visible: bool, own_visible
                    "Shows or hides it at the start. The default is shown."
                    "The visibility described here, if any.";
                /// Whether it is a player: prompts are offered to it, and it points and presses. The default
                /// is false.
                player: bool, own_player
                    "Say whether it is a player: prompts are offered to players, and only they point and \
                     press. The default is no."
                    "Whether it is described here as a player, or as none.";
                /// What to highlight when it or something below it is offered.
                highlight: bool, own_highlight
                    "Say whether it is what a user interface should highlight when it or something below it \
                     is offered."
                    "Whether it is described here as what to highlight, or not.";
            }
            tables {
                /// A shape that detects.
                zone: $crate::scene::Zone, own_zone zone_of
                    "Give it a zone."
                    "The zone described here, if any."
                    "The zone of an entity, its own or its kind's, if it has one.";
                /// Which subjects may set off its detectors. The default is every subject.
                admit: $crate::scene::Admit, own_admit admit_of
                    "Say which subjects may set off its detectors. The default is every subject."
                    "The rule of admission described here, if any."
                    "The rule of admission of an entity, its own or its kind's, if it has one.";
                /// A shape that blocks.
                solid: $crate::geometry::Shape, own_solid solid_of
                    "Make it solid, in this shape."
                    "The solid shape described here, if any."
                    "The solid shape of an entity, its own or its kind's, if it has one.";
                /// What makes it move by itself and be detected.
                body: $crate::scene::Body, own_body body_of
                    "Give it a body."
                    "The body described here, if any."
                    "The body of an entity, its own or its kind's, if it has one.";
                /// Through which the pointer of the player it belongs to points.
                camera: $crate::scene::Camera, own_camera lens_of
                    "Give it a camera, through which the pointer of the player it belongs to points."
                    "The camera described here, if any."
                    "The camera that an entity is, by itself or by its kind, if it is one.";
                /// What a subject that comes into its zone collects.
                pickup: $crate::scene::Pickup, own_pickup pickup_of
                    "Let it be collected."
                    "The pickup described here, if any."
                    "The pickup that an entity is, by itself or by its kind, if it is one.";
                /// Makes it something to carry.
                carry: $crate::scene::Carry, own_carry carry_of
                    "Let it be carried. Needs a body."
                    "How it is carried, if that is described here."
                    "What makes an entity something to carry, its own or its kind's, if anything.";
                /// Lets it belong to one body at a time.
                ownership: $crate::scene::Ownership, own_ownership ownership_of
                    "Let it belong to one body at a time."
                    "Which bodies may own it, if that is described here."
                    "Which bodies may own an entity, as it or its kind says, if any may.";
                /// The stops that it travels to.
                route: $crate::scene::Route, own_route route_of
                    "Give it a route."
                    "The route described here, if any."
                    "The route of an entity, its own or its kind's, if it has one.";
                /// Keeps a number of a kind in the play.
                spawner: $crate::scene::Spawner, own_spawner spawner_of
                    "Lets it keep a number of a kind in the play. Needs a zone."
                    "The spawner described here, if any."
                    "The spawner of an entity, its own or its kind's, if it has one.";
            }
        }
    };
}

macro_rules! described {
    (
        values { $($(#[$about:meta])* $value:ident: $type:ty, $own_value:ident
            $set_value:literal $get_value:literal;)* }
        tables { $($(#[$what:meta])* $table:ident: $described:ty, $own:ident $of:ident
            $set:literal $get:literal $get_of:literal;)* }
    ) => {
        /// What a kind gives its entities, and what an entity may have of its own.
        #[derive(Clone, Debug, Default, PartialEq)]
        pub(crate) struct Features {
            /// The kinds that it is of, or builds on.
            pub kinds: Vec<String>,
            pub tags: Vec<String>,
            /// Empty where none are given.
            pub layers: Vec<String>,
            $($(#[$about])* pub $value: Option<$type>,)*
            // Boxed, as most entities have few of them.
            $($(#[$what])* pub $table: Option<Box<$described>>,)*
            pub detectors: Option<Box<Detectors>>,
            pub limits: Option<Limits>,
            /// By name, sorted.
            pub stats: Vec<(String, Stat)>,
            /// By name, sorted.
            pub slots: Vec<(String, Slot)>,
            /// By name, sorted.
            pub children: Vec<Entity>,
            /// How many of a kind wait to be spawned.
            pub stock: u32,
        }

        impl Features {
            /// What an entity or a kind has: its own, and what a kind gives where it has none.
            pub fn or(self, kind: &Self) -> Self {
                let own = self;
                let layers =
                    if own.layers.is_empty() { kind.layers.clone() } else { own.layers };
                Self {
                    kinds: own.kinds,
                    tags: kind.tags.iter().chain(&own.tags).cloned().collect(),
                    layers,
                    $($value: own.$value.or(kind.$value),)*
                    $($table: own.$table.or_else(|| kind.$table.clone()),)*
                    detectors: match (own.detectors, &kind.detectors) {
                        (Some(own), Some(kind)) => Some(Box::new((*own).or(kind))),
                        (own, kind) => own.or_else(|| kind.clone()),
                    },
                    limits: own.limits.or(kind.limits),
                    stats: both_stats(own.stats, &kind.stats),
                    slots: both_slots(&own.slots, &kind.slots),
                    children: both_children(&own.children, &kind.children),
                    stock: 0,
                }
            }
        }

        macro_rules! single_features {
            ($owner:ident) => {
                impl $owner {
                    $(#[doc = $set_value]
                    #[must_use]
                    pub fn $value(mut self, $value: $type) -> Self {
                        self.features.$value = Some($value);
                        self
                    }

                    #[doc = $get_value]
                    pub fn $own_value(&self) -> Option<$type> {
                        self.features.$value
                    })*

                    $(#[doc = $set]
                    #[must_use]
                    pub fn $table(mut self, $table: $described) -> Self {
                        self.features.$table = Some(Box::new($table));
                        self
                    }

                    #[doc = $get]
                    pub fn $own(&self) -> Option<&$described> {
                        self.features.$table.as_deref()
                    })*
                }
            };
        }
        pub(super) use single_features;
    };
}

for_each_feature!(described);

/// The stats of both; where both have one of a name, the own one.
fn both_stats(own: Vec<(String, Stat)>, given: &[(String, Stat)]) -> Vec<(String, Stat)> {
    let beside = |(name, _): &&(String, Stat)| !own.iter().any(|(other, _)| other == name);
    let beside: Vec<_> = given.iter().filter(beside).cloned().collect();
    own.into_iter().chain(beside).collect()
}

/// The slots of both; where both have one of a name, what fills the given one.
fn both_slots(own: &[(String, Slot)], given: &[(String, Slot)]) -> Vec<(String, Slot)> {
    let find = |all: &[(String, Slot)], name: &str| {
        all.iter().find(|(other, _)| other == name).map(|(_, slot)| slot.clone())
    };
    let filled = given.iter().map(|(name, given)| {
        let slot = find(own, name).map_or(given.clone(), |own| own.instead_of(given));
        (name.clone(), slot)
    });
    // Beside them, if its kind has none.
    let beside = own.iter().filter(|(name, _)| find(given, name).is_none());
    filled.chain(beside.cloned()).collect()
}

impl Features {
    /// What of this an entity cannot take on once it is played, by its key; none if it can take on all.
    pub fn unconvertible(&self) -> Option<&'static str> {
        #[rustfmt::skip]
        let Self {
            kinds: _, stock: _, layers: _, scale: _, highlight: _, zone: _, admit: _, solid: _, body: _,
            camera: _, detectors: _, limits: _,
            tags, enabled, visible, player, pickup, carry, ownership, route, spawner, stats, slots,
            children,
        } = self;
        let given = [
            ("tags", !tags.is_empty()),
            ("enabled", enabled.is_some()),
            ("visible", visible.is_some()),
            ("player", player.is_some()),
            ("pickup", pickup.is_some()),
            ("carry", carry.is_some()),
            ("ownership", ownership.is_some()),
            ("route", route.is_some()),
            ("spawner", spawner.is_some()),
            ("stats", !stats.is_empty()),
            ("slots", !slots.is_empty()),
            ("children", !children.is_empty()),
        ];
        given.into_iter().find(|(_, given)| *given).map(|(key, _)| key)
    }

    /// The detectors, but for a zone.
    pub fn detectors(&self) -> &Detectors {
        self.detectors.as_deref().unwrap_or(&Detectors::NONE)
    }

    pub fn detectors_mut(&mut self) -> &mut Detectors {
        self.detectors.get_or_insert_default()
    }
}

/// The children of both, by name; where both have one, the own one, at the place of the given one if it
/// gives none.
fn both_children(own: &[Entity], given: &[Entity]) -> Vec<Entity> {
    let find = |all: &[Entity], name: &str| all.iter().find(|it| it.name == name).cloned();
    let mut children = own.to_vec();
    for child in &mut children {
        child.pose = child.pose.or_else(|| find(given, &child.name)?.pose);
    }
    children.extend(given.iter().filter(|it| find(own, &it.name).is_none()).cloned());
    children.sort_by(|one, other| one.name.cmp(&other.name));
    children
}

macro_rules! detectors {
    ($($(#[$about:meta])* $name:ident $key:ident $of:ident $set:literal;)*) => {
        impl Features {
            /// Whether such a detector is described here. Anything can be arrived at.
            pub fn describes(&self, detector: Detector) -> bool {
                match detector {
                    Detector::Zone => self.zone.is_some(),
                    $(Detector::$name => self.detectors().$key.is_some(),)*
                    Detector::Pickup => self.pickup.is_some(),
                    Detector::Carry => self.carry.is_some(),
                    Detector::Ownership => self.ownership.is_some(),
                    Detector::Camera => self.camera.is_some(),
                    Detector::Route => self.route.is_some(),
                    Detector::Stats => {
                        let walks = self.body.as_ref().is_some_and(|body| body.walk.is_some());
                        walks || !self.stats.is_empty()
                    }
                    Detector::Teleport => true,
                }
            }
        }
    };
}

crate::for_each_detector!(detectors);

/// The setters and getters that kinds and entities share.
macro_rules! features {
    ($owner:ident) => {
        $crate::describe::features::single_features!($owner);

        impl $owner {
            /// Its name.
            pub fn name(&self) -> &str {
                &self.name
            }

            /// Make it of this kind, too: its word counts after those of the kinds before.
            #[must_use]
            pub fn kind(mut self, name: impl Into<String>) -> Self {
                self.features.kinds.push(name.into());
                self
            }

            /// The names of the kinds described here, in the order in which they count.
            pub fn own_kinds(&self) -> &[String] {
                &self.features.kinds
            }

            /// Give it a child. What the child is called is added to the name of what has it, as in
            /// `gate/leaf`, and in actions and expressions it is in the slot of its name: `on.slot.leaf`. A
            /// child of this name of one of its kinds is described further by it.
            #[must_use]
            pub fn child(mut self, child: $crate::scene::Entity) -> Self {
                self.features.children.push(child);
                self.features.children.sort_by(|one, other| one.name.cmp(&other.name));
                self
            }

            /// The children described here, by name.
            pub fn own_children(&self) -> &[$crate::scene::Entity] {
                &self.features.children
            }

            /// Add tags.
            #[must_use]
            pub fn tags<T: Into<String>>(mut self, tags: impl IntoIterator<Item = T>) -> Self {
                self.features.tags.extend(tags.into_iter().map(Into::into));
                self
            }

            /// Put it in these layers. An entity's own replace its kind's; with none it is in
            /// the layer `default`.
            #[must_use]
            pub fn layers<T: Into<String>>(mut self, layers: impl IntoIterator<Item = T>) -> Self {
                self.features.layers.extend(layers.into_iter().map(Into::into));
                self
            }

            /// Limits how often its detectors may act. The default is no limit.
            #[must_use]
            pub fn limits(mut self, limits: $crate::scene::Limits) -> Self {
                self.features.limits = Some(limits);
                self
            }

            /// Give it a stat. An entity's own replaces the one of this name of its kind.
            #[must_use]
            pub fn stat(mut self, name: impl Into<String>, stat: $crate::scene::Stat) -> Self {
                let name = name.into();
                self.features.stats.retain(|(other, _)| *other != name);
                self.features.stats.push((name, stat));
                self.features.stats.sort_by(|(one, _), (other, _)| one.cmp(other));
                self
            }

            /// Give it a slot with something in it. An entity's own replaces the one of this name of its
            /// kind, and must be of the same sort; a text in a slot for an entity is its name.
            #[must_use]
            pub fn slot(
                self,
                name: impl Into<String>,
                value: impl Into<$crate::scene::SlotValue>,
            ) -> Self {
                self.with_slot(name.into(), $crate::scene::Slot::Filled(value.into()))
            }

            /// Give it a slot that is empty. Of a kind: each entity fills its own.
            #[must_use]
            pub fn needs_slot(
                self,
                name: impl Into<String>,
                sort: $crate::scene::SlotSort,
            ) -> Self {
                self.with_slot(name.into(), $crate::scene::Slot::Needed(sort))
            }

            fn with_slot(mut self, name: String, slot: $crate::scene::Slot) -> Self {
                self.features.slots.retain(|(other, _)| *other != name);
                self.features.slots.push((name, slot));
                self.features.slots.sort_by(|(one, _), (other, _)| one.cmp(other));
                self
            }

            /// The slots described here, by name.
            pub fn own_slots(&self) -> &[(String, $crate::scene::Slot)] {
                &self.features.slots
            }

            /// The stats described here, by name.
            pub fn own_stats(&self) -> &[(String, $crate::scene::Stat)] {
                &self.features.stats
            }

            /// The tags described here.
            pub fn own_tags(&self) -> &[String] {
                &self.features.tags
            }

            /// The layers described here.
            pub fn own_layers(&self) -> &[String] {
                &self.features.layers
            }

            /// The detectors described here, but for its zone.
            pub fn own_detectors(&self) -> &$crate::scene::Detectors {
                self.features.detectors()
            }

            /// The limits described here, if any.
            pub fn own_limits(&self) -> Option<$crate::scene::Limits> {
                self.features.limits
            }
        }
    };
}

pub(super) use features;
