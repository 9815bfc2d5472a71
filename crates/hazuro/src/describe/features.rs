//! What kinds and entities have in common.

use crate::geometry::Shape;

use super::{
    Admit, Body, Camera, Carry, Detector, Detectors, Entity, Limits, Ownership, Pickup, Route,
    Slot, Spawner, Stat, Zone,
};

/// What a kind gives its entities, and what an entity may have of its own.
#[derive(Clone, Debug, Default, PartialEq)]
pub(crate) struct Features {
    /// The kinds that it is of, or builds on.
    pub kinds: Vec<String>,
    pub tags: Vec<String>,
    /// Empty where none are given.
    pub layers: Vec<String>,
    pub enabled: Option<bool>,
    pub visible: Option<bool>,
    pub scale: Option<f64>,
    // Boxed, as most entities have few of them.
    pub zone: Option<Box<Zone>>,
    pub admit: Option<Box<Admit>>,
    pub solid: Option<Box<Shape>>,
    pub body: Option<Box<Body>>,
    pub detectors: Option<Box<Detectors>>,
    pub limits: Option<Limits>,
    pub camera: Option<Box<Camera>>,
    pub player: Option<bool>,
    pub highlight: Option<bool>,
    /// By name, sorted.
    pub stats: Vec<(String, Stat)>,
    pub pickup: Option<Box<Pickup>>,
    pub carry: Option<Box<Carry>>,
    pub ownership: Option<Box<Ownership>>,
    pub route: Option<Box<Route>>,
    pub spawner: Option<Box<Spawner>>,
    /// By name, sorted.
    pub slots: Vec<(String, Slot)>,
    /// By name, sorted.
    pub children: Vec<Entity>,
    /// How many of a kind wait to be spawned.
    pub stock: u32,
}

impl Features {
    /// The detectors, but for a zone.
    pub fn detectors(&self) -> &Detectors {
        self.detectors.as_deref().unwrap_or(&Detectors::NONE)
    }

    /// What an entity or a kind has: its own, and what a kind gives where it has none.
    pub fn or(self, kind: &Self) -> Self {
        let own = self;
        let children = both_children(&own.children, &kind.children);
        let given = |(name, _): &&(String, Stat)| !own.stats.iter().any(|(other, _)| other == name);
        let given: Vec<_> = kind.stats.iter().filter(given).cloned().collect();
        let own_slot = |name: &str| own.slots.iter().find(|(it, _)| it == name);
        let slots = kind.slots.iter().map(|(name, given)| {
            let slot =
                own_slot(name).map_or(given.clone(), |(_, own)| own.clone().instead_of(given));
            (name.clone(), slot)
        });
        // Beside them, if its kind has none.
        let beside =
            own.slots.iter().filter(|(name, _)| !kind.slots.iter().any(|(it, _)| it == name));
        let slots: Vec<_> = slots.chain(beside.cloned()).collect();
        Self {
            kinds: own.kinds,
            tags: kind.tags.iter().chain(&own.tags).cloned().collect(),
            layers: if own.layers.is_empty() { kind.layers.clone() } else { own.layers },
            enabled: own.enabled.or(kind.enabled),
            visible: own.visible.or(kind.visible),
            scale: own.scale.or(kind.scale),
            zone: own.zone.or_else(|| kind.zone.clone()),
            admit: own.admit.or_else(|| kind.admit.clone()),
            solid: own.solid.or_else(|| kind.solid.clone()),
            body: own.body.or_else(|| kind.body.clone()),
            detectors: match (own.detectors, &kind.detectors) {
                (Some(own), Some(kind)) => Some(Box::new((*own).or(kind))),
                (own, kind) => own.or_else(|| kind.clone()),
            },
            limits: own.limits.or(kind.limits),
            camera: own.camera.or_else(|| kind.camera.clone()),
            player: own.player.or(kind.player),
            highlight: own.highlight.or(kind.highlight),
            stats: own.stats.into_iter().chain(given).collect(),
            pickup: own.pickup.or_else(|| kind.pickup.clone()),
            carry: own.carry.or_else(|| kind.carry.clone()),
            ownership: own.ownership.or_else(|| kind.ownership.clone()),
            route: own.route.or_else(|| kind.route.clone()),
            spawner: own.spawner.or_else(|| kind.spawner.clone()),
            slots,
            children,
            stock: 0,
        }
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

            /// Enables or disables it at the start. The default is enabled.
            #[must_use]
            pub fn enabled(mut self, enabled: bool) -> Self {
                self.features.enabled = Some(enabled);
                self
            }

            /// Shows or hides it at the start. The default is shown.
            #[must_use]
            pub fn visible(mut self, visible: bool) -> Self {
                self.features.visible = Some(visible);
                self
            }

            /// Make all its shapes this many times as large, from 0.001 to 1000. Where it is, and
            /// its children, stay as they are.
            #[must_use]
            pub fn scale(mut self, factor: f64) -> Self {
                self.features.scale = Some(factor);
                self
            }

            /// Give it a zone.
            #[must_use]
            pub fn zone(mut self, zone: $crate::scene::Zone) -> Self {
                self.features.zone = Some(Box::new(zone));
                self
            }

            /// Say who may set off its detectors. The default is every subject.
            #[must_use]
            pub fn admit(mut self, admit: $crate::scene::Admit) -> Self {
                self.features.admit = Some(Box::new(admit));
                self
            }

            /// Make it solid, in this shape.
            #[must_use]
            pub fn solid(mut self, shape: $crate::geometry::Shape) -> Self {
                self.features.solid = Some(Box::new(shape));
                self
            }

            /// Give it a body.
            #[must_use]
            pub fn body(mut self, body: $crate::scene::Body) -> Self {
                self.features.body = Some(Box::new(body));
                self
            }

            /// Limits how often its detectors may act. The default is no limit.
            #[must_use]
            pub fn limits(mut self, limits: $crate::scene::Limits) -> Self {
                self.features.limits = Some(limits);
                self
            }

            /// Give it a camera, through which the pointer of the player it belongs to points.
            #[must_use]
            pub fn camera(mut self, camera: $crate::scene::Camera) -> Self {
                self.features.camera = Some(Box::new(camera));
                self
            }

            /// Say whether it is a player: prompts are offered to players, and only they point
            /// and press. The default is no.
            #[must_use]
            pub fn player(mut self, player: bool) -> Self {
                self.features.player = Some(player);
                self
            }

            /// Say whether it is what a user interface should highlight when it or something
            /// below it is offered.
            #[must_use]
            pub fn highlight(mut self, highlight: bool) -> Self {
                self.features.highlight = Some(highlight);
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

            /// Let it be collected.
            #[must_use]
            pub fn pickup(mut self, pickup: $crate::scene::Pickup) -> Self {
                self.features.pickup = Some(Box::new(pickup));
                self
            }

            /// Let it be carried. Needs a body.
            #[must_use]
            pub fn carry(mut self, carry: $crate::scene::Carry) -> Self {
                self.features.carry = Some(Box::new(carry));
                self
            }

            /// Let it belong to one body at a time.
            #[must_use]
            pub fn ownership(mut self, ownership: $crate::scene::Ownership) -> Self {
                self.features.ownership = Some(Box::new(ownership));
                self
            }

            /// Give it a route.
            #[must_use]
            pub fn route(mut self, route: $crate::scene::Route) -> Self {
                self.features.route = Some(Box::new(route));
                self
            }

            /// Lets it keep a number of a kind in the play. Needs a zone.
            #[must_use]
            pub fn spawner(mut self, spawner: $crate::scene::Spawner) -> Self {
                self.features.spawner = Some(Box::new(spawner));
                self
            }

            /// How it is carried, if that is described here.
            pub fn own_carry(&self) -> Option<&$crate::scene::Carry> {
                self.features.carry.as_deref()
            }

            /// Who may own it, if that is described here.
            pub fn own_ownership(&self) -> Option<&$crate::scene::Ownership> {
                self.features.ownership.as_deref()
            }

            /// The route described here, if any.
            pub fn own_route(&self) -> Option<&$crate::scene::Route> {
                self.features.route.as_deref()
            }

            /// The spawner described here, if any.
            pub fn own_spawner(&self) -> Option<&$crate::scene::Spawner> {
                self.features.spawner.as_deref()
            }

            /// The stats described here, by name.
            pub fn own_stats(&self) -> &[(String, $crate::scene::Stat)] {
                &self.features.stats
            }

            /// The pickup described here, if any.
            pub fn own_pickup(&self) -> Option<&$crate::scene::Pickup> {
                self.features.pickup.as_deref()
            }

            /// The tags described here.
            pub fn own_tags(&self) -> &[String] {
                &self.features.tags
            }

            /// The layers described here.
            pub fn own_layers(&self) -> &[String] {
                &self.features.layers
            }

            /// The switch described here, if any.
            pub fn own_enabled(&self) -> Option<bool> {
                self.features.enabled
            }

            /// The visibility described here, if any.
            pub fn own_visible(&self) -> Option<bool> {
                self.features.visible
            }

            /// The scale described here, if any.
            pub fn own_scale(&self) -> Option<f64> {
                self.features.scale
            }

            /// The zone described here, if any.
            pub fn own_zone(&self) -> Option<&$crate::scene::Zone> {
                self.features.zone.as_deref()
            }

            /// The rule of admission described here, if any.
            pub fn own_admit(&self) -> Option<&$crate::scene::Admit> {
                self.features.admit.as_deref()
            }

            /// The detectors described here, but for its zone.
            pub fn own_detectors(&self) -> &$crate::scene::Detectors {
                self.features.detectors()
            }

            /// The limits described here, if any.
            pub fn own_limits(&self) -> Option<$crate::scene::Limits> {
                self.features.limits
            }

            /// The camera described here, if any.
            pub fn own_camera(&self) -> Option<&$crate::scene::Camera> {
                self.features.camera.as_deref()
            }

            /// Whether it is described here as a player, or as none.
            pub fn own_player(&self) -> Option<bool> {
                self.features.player
            }

            /// Whether it is described here as what to highlight, or not.
            pub fn own_highlight(&self) -> Option<bool> {
                self.features.highlight
            }

            /// The solid shape described here, if any.
            pub fn own_solid(&self) -> Option<&$crate::geometry::Shape> {
                self.features.solid.as_deref()
            }

            /// The body described here, if any.
            pub fn own_body(&self) -> Option<&$crate::scene::Body> {
                self.features.body.as_deref()
            }
        }
    };
}

pub(super) use features;
