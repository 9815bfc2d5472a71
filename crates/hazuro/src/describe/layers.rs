//! Layers: a few named groups that can be told apart at a glance.

use std::hash::Hash;

use super::{Fault, Named, nearest};

/// Some of the layers of a scene.
///
/// ```
/// use hazuro::{Scene, geometry::Shape, scene::Entity};
/// let scene = Scene::builder("Yard")
///     .entity(Entity::new("wall").layers(["stone"]).solid(Shape::Box { size: [1.0; 3] }))
///     .build()?;
/// assert!(scene.layers(["stone", "default"]).is_ok());
/// assert!(scene.layers(["stoen"]).is_err());
/// # Ok::<(), hazuro::scene::SceneErrors>(())
/// ```
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub struct Layers(pub(crate) u64);

impl Layers {
    /// The layer of entities that name none.
    pub const DEFAULT: &'static str = "default";
    /// The most layers a scene can have, [`DEFAULT`](Self::DEFAULT) included.
    pub const MOST: usize = 64;
    /// Every layer.
    pub const ALL: Self = Self(u64::MAX);
    /// No layer.
    pub(crate) const NONE: Self = Self(0);

    /// Whether the two have a layer in common.
    pub fn meet(self, other: Self) -> bool {
        self.0 & other.0 != 0
    }

    #[must_use]
    pub(crate) fn and(self, other: Self) -> Self {
        Self(self.0 | other.0)
    }
}

/// The names of a scene's layers, in order of appearance.
#[derive(Clone, Debug)]
pub(crate) struct LayerNames(Vec<String>);

impl Default for LayerNames {
    fn default() -> Self {
        Self(vec![Layers::DEFAULT.into()])
    }
}

impl LayerNames {
    /// The layer of this name, which is a new one if there is room. None if there is not.
    pub fn intern(&mut self, name: &str) -> Option<Layers> {
        if let Ok(known) = self.find(name) {
            return Some(known);
        }
        if self.0.len() == Layers::MOST {
            return None;
        }
        self.0.push(name.into());
        Some(Layers(1 << (self.0.len() - 1)))
    }

    /// The layer of this name.
    pub fn find(&self, name: &str) -> Result<Layers, Fault> {
        if let Some(bit) = self.0.iter().position(|known| known == name) {
            return Ok(Layers(1 << bit));
        }
        let nearest = nearest(name, self.0.iter().map(String::as_str));
        Err(Fault::Unknown { what: Named::Layer, name: name.into(), nearest })
    }

    /// The names of some layers.
    pub fn of(&self, layers: Layers) -> impl Iterator<Item = &str> {
        let named = self.0.iter().enumerate();
        named.filter(move |(bit, _)| layers.0 >> bit & 1 == 1).map(|(_, name)| name.as_str())
    }
}
