//! Entities and kinds, as their author describes them.

use crate::geometry::Pose;

use super::features::{Features, features};
use super::{CHILD_MARK, Field, Selector};

/// What entities of one sort share.
///
/// What an entity gives itself counts first, then its kinds from left to right, each before the kinds that
/// it builds on; a kind met twice counts at its last place. Tags of all of them add up; stats, slots and
/// children are taken one by one; of anything else the first that gives it counts.
///
/// ```
/// use hazuro::{Scene, scene::{Body, Entity, Kind}};
/// use hazuro::geometry::Shape;
/// let capsule = Shape::Capsule { radius: 0.3, height: 1.8 };
/// let scene = Scene::builder("Tide mill")
///     .kind(Kind::new("person").tags(["person"]).body(Body::new(capsule).walk(3.0)))
///     .kind(Kind::new("guest").kind("person").tags(["guest"]))
///     .entity(Entity::new("heron").kind("guest"))
///     .build()?;
/// let heron = scene.find("heron").unwrap();
/// assert!(scene.has_body(heron));
/// let kinds: Vec<&str> = scene.kinds_of(heron).map(|kind| kind.name()).collect();
/// assert_eq!(kinds, ["guest", "person"]);
/// # Ok::<(), hazuro::scene::SceneErrors>(())
/// ```
#[derive(Clone, Debug, PartialEq)]
pub struct Kind {
    pub(crate) name: String,
    /// Whose kind it is beside those that name it.
    pub(crate) takes: Vec<Selector>,
    /// Whether it is the kind of the children that another kind gives.
    pub(crate) of_child: bool,
    pub(crate) features: Features,
}

impl Kind {
    /// A kind that gives nothing yet.
    pub fn new(name: impl Into<String>) -> Self {
        let (takes, of_child) = (Vec::new(), false);
        Self { name: name.into(), takes, of_child, features: Features::default() }
    }

    /// Make it a kind of everything with a tag (`tag:lamp`, of its own or of a kind that it names), of a
    /// name (`gate`, or `gate_*` with any letters for the star; `*/leaf` for children) or of all but children
    /// (`*`). It counts after the kinds that the entity names.
    ///
    /// ```
    /// use hazuro::{Scene, scene::{Entity, Kind}};
    /// let scene = Scene::builder("Tide mill")
    ///     .kind(Kind::new("lit").for_all("lamp_*").highlight(true))
    ///     .entity(Entity::new("lamp_north"))
    ///     .entity(Entity::new("weir"))
    ///     .build()?;
    /// let lit = |name: &str| scene.kinds_of(scene.find(name).unwrap()).count() == 1;
    /// assert!(lit("lamp_north") && !lit("weir"));
    /// # Ok::<(), hazuro::scene::SceneErrors>(())
    /// ```
    #[must_use]
    pub fn for_all(mut self, whom: impl Into<Selector>) -> Self {
        self.takes.push(whom.into());
        self
    }

    /// Whose kind it is beside those that name it.
    pub fn taken(&self) -> &[Selector] {
        &self.takes
    }

    /// Whether it is the kind of the children that another kind gives, as `gate/leaf` is of those that
    /// `gate` calls `leaf`.
    pub fn is_of_child(&self) -> bool {
        self.of_child
    }

    /// Where it is described.
    pub fn field(&self) -> Field {
        let kind = Field::ROOT.key("kind");
        if !self.of_child {
            return kind.key(&self.name);
        }
        let mut names = self.name.split(CHILD_MARK);
        let giver = kind.key(names.next().unwrap_or_default());
        names.fold(giver, |field, child| field.key("children").key(child))
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
    pub(crate) parent: Option<String>,
    /// At the origin of its parent's frame if none is given.
    pub(crate) pose: Option<Pose>,
    /// Of a child that its parent is given by its description: the place of that among those that are
    /// described with it.
    pub(crate) made_for: Option<u32>,
    pub(crate) features: Features,
}

impl Entity {
    /// A marker at the origin.
    pub fn new(name: impl Into<String>) -> Self {
        Self {
            name: name.into(),
            parent: None,
            pose: None,
            made_for: None,
            features: Features::default(),
        }
    }

    /// Make it a child of this entity: it moves along, and is off while its parent is.
    #[must_use]
    pub fn parent(self, name: impl Into<String>) -> Self {
        Self { parent: Some(name.into()), ..self }
    }

    /// Put it here, in its parent's frame.
    #[must_use]
    pub fn at(self, pose: impl Into<Pose>) -> Self {
        Self { pose: Some(pose.into()), ..self }
    }

    /// What a child is called below its parent: the last part of its name.
    pub(crate) fn own_name(&self) -> &str {
        self.name.rsplit_once(CHILD_MARK).map_or(&self.name, |(_, own)| own)
    }

    /// The name of its parent, as described.
    pub fn parent_name(&self) -> Option<&str> {
        self.parent.as_deref()
    }

    /// Its pose in its parent's frame, as described.
    pub fn pose(&self) -> Pose {
        self.pose.unwrap_or(Pose::IDENTITY)
    }

    /// Its pose in its parent's frame, if one is described.
    pub fn own_pose(&self) -> Option<Pose> {
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
