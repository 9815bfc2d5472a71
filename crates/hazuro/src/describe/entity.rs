//! Entities and kinds, as their author describes them.

use crate::geometry::Pose;

use super::features::{Features, features};

/// What entities of one sort share. An entity's own tags add to its kind's; anything else it
/// gives replaces what the kind gives.
///
/// ```
/// use hazuro::scene::{Body, Kind};
/// use hazuro::geometry::Shape;
/// let person = Kind::new("person")
///     .tags(["person"])
///     .body(Body::new(Shape::Capsule { radius: 0.3, height: 1.8 }).walk(3.0));
/// ```
#[derive(Clone, Debug, PartialEq)]
pub struct Kind {
    pub(crate) name: String,
    pub(crate) features: Features,
}

impl Kind {
    /// A kind that gives nothing yet.
    pub fn new(name: impl Into<String>) -> Self {
        Self { name: name.into(), features: Features::default() }
    }

    /// Keeps `number` more of it ready to be spawned. They are named `NAME#1`, `NAME#2` and so on.
    #[must_use]
    pub fn stock(mut self, number: u32) -> Self {
        self.features.stock = number;
        self
    }

    /// How many are kept ready to be spawned.
    pub fn stock_size(&self) -> u32 {
        self.features.stock
    }
}

/// Anything in a scene. With a name and a pose alone it is a marker.
///
/// ```
/// use hazuro::scene::{Admit, Entity, Zone};
/// use hazuro::geometry::Shape;
/// let pad = Entity::new("sluice_pad")
///     .at([0.0, 1.0, 0.0])
///     .zone(Zone::new(Shape::Box { size: [4.0, 2.0, 4.0] }))
///     .admit(Admit::tags(["player"]));
/// ```
#[derive(Clone, Debug, PartialEq)]
pub struct Entity {
    pub(crate) name: String,
    pub(crate) kind: Option<String>,
    pub(crate) parent: Option<String>,
    pub(crate) pose: Pose,
    pub(crate) features: Features,
}

impl Entity {
    /// A marker at the origin.
    pub fn new(name: impl Into<String>) -> Self {
        Self {
            name: name.into(),
            kind: None,
            parent: None,
            pose: Pose::IDENTITY,
            features: Features::default(),
        }
    }

    /// Make it of this kind.
    #[must_use]
    pub fn kind(self, name: impl Into<String>) -> Self {
        Self { kind: Some(name.into()), ..self }
    }

    /// Make it a child of this entity: it moves along, and is off while its parent is.
    #[must_use]
    pub fn parent(self, name: impl Into<String>) -> Self {
        Self { parent: Some(name.into()), ..self }
    }

    /// Put it here, in its parent's frame.
    #[must_use]
    pub fn at(self, pose: impl Into<Pose>) -> Self {
        Self { pose: pose.into(), ..self }
    }

    /// The name of its kind, as described.
    pub fn kind_name(&self) -> Option<&str> {
        self.kind.as_deref()
    }

    /// The name of its parent, as described.
    pub fn parent_name(&self) -> Option<&str> {
        self.parent.as_deref()
    }

    /// Its pose in its parent's frame, as described.
    pub fn pose(&self) -> Pose {
        self.pose
    }
}

features!(Kind);
features!(Entity);

macro_rules! detectors {
    ($($(#[$about:meta])* $name:ident $key:ident $of:ident $set:literal;)*) => {
        impl Kind {
            $(#[doc = $set]
            #[must_use]
            pub fn $key(mut self, $key: super::$name) -> Self {
                self.features.detectors_mut().$key = Some($key);
                self
            })*
        }

        impl Entity {
            $(#[doc = $set]
            #[must_use]
            pub fn $key(mut self, $key: super::$name) -> Self {
                self.features.detectors_mut().$key = Some($key);
                self
            })*
        }
    };
}

crate::for_each_detector!(detectors);
