//! Following a play that goes on elsewhere, and reading what names its things by number.

use crate::model::Scene;
use crate::play::Play;
use crate::state::{Delta, State};

use super::LoadError;
use super::adapt::check_plans;
use super::names::inside;

impl State {
    /// Makes of the state from which a delta was taken the one to which it leads.
    ///
    /// # Errors
    /// If it does not fit the scene; the state is of no use then.
    pub fn take(&mut self, delta: Delta, scene: &Scene) -> Result<(), LoadError> {
        if !self.go_over(delta) {
            return Err(LoadError::Damaged("it tells of what is not there".into()));
        }
        check_plans(self, scene)
    }
}

impl Play {
    /// Goes on from the state to which a delta leads from the present one. Handlers stay.
    ///
    /// # Errors
    /// If it does not fit the scene; the play is as it was before.
    pub fn take(&mut self, delta: Delta) -> Result<(), LoadError> {
        let mut state = self.state().clone();
        state.take(delta, self.scene())?;
        self.restore(state).map_err(|fault| LoadError::Damaged(fault.to_string()))
    }
}

impl Scene {
    /// Reads something that names entities, reactions and the like by number, as inputs, events and
    /// deltas do: the numbers mean what they mean in this scene.
    ///
    /// ```
    /// use hazuro::{Input, Scene, scene::Entity};
    /// let scene = Scene::builder("Yard").entity(Entity::new("gate")).build()?;
    /// let gate = scene.find("gate").unwrap();
    /// let text = serde_json::to_string(&Input::Remove(gate))?;
    /// let read: Input = scene.within(|| serde_json::from_str(&text))?;
    /// assert_eq!(read, Input::Remove(gate));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    ///
    /// # Errors
    /// If it cannot be read, or a number means nothing in the scene.
    pub fn within<T, E: ToString>(
        &self,
        read: impl FnOnce() -> Result<T, E>,
    ) -> Result<T, LoadError> {
        inside(self, || read().map_err(|error| error.to_string()))
    }
}
