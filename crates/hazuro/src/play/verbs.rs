//! The commonest actions as calls.

use crate::describe::{
    Action, Change, EntityId, Facts, Fault, ResolvedAction, Switch, Teleport, range,
};
use crate::detect::pointer;
use crate::geometry::Ray;
use crate::model::{EntityKey, door};
use crate::record::Problem;

use super::Act;

impl Act<'_> {
    /// A count; 0 if nothing has changed it yet.
    pub fn count(&self, name: &str) -> i64 {
        self.facts().count(name)
    }

    /// Adds to a count. A name that cannot be one is reported as [`Problem::BadAction`].
    pub fn add(&mut self, count: &str, amount: i64) {
        self.attempt(&Action::Count { name: count.into(), of: None, change: Change::Add(amount) });
    }

    /// Sets a count.
    pub fn set(&mut self, count: &str, value: i64) {
        self.attempt(&Action::Count { name: count.into(), of: None, change: Change::Set(value) });
    }

    /// Raises or lowers a flag.
    pub fn flag(&mut self, name: &str, up: bool) {
        self.attempt(&Action::Flag { name: name.into(), of: None, to: Some(up) });
    }

    /// Shows a text.
    pub fn say(&mut self, key: &str) {
        self.attempt(&Action::Say { key: key.into(), to: None });
    }

    /// Shows a text to somebody alone.
    ///
    /// # Errors
    /// If the scene has no such entity.
    pub fn say_to(&mut self, to: impl EntityKey, key: &str) -> Result<(), Fault> {
        let to = self.scene.entity_id(to)?;
        self.attempt(&Action::Say { key: key.into(), to: Some(to) });
        Ok(())
    }

    /// The ray through a point of a player's screen, in pixels from the top left; none if no camera is the
    /// player's.
    ///
    /// # Errors
    /// If the scene has no such entity, or the point is more than a million pixels away.
    pub fn screen_ray(
        &mut self,
        player: impl EntityKey,
        pixel: [f64; 2],
    ) -> Result<Option<Ray>, Fault> {
        let player = self.scene.entity_id(player)?;
        pointer::screen_ray(self.space(), player, pixel)
    }

    /// Sends a cue, with the subject and detector of this event.
    pub fn cue(&mut self, name: &str) {
        self.attempt(&Action::Cue { name: name.into(), on: None, who: None });
    }

    /// Does an action if it may pass the door; else the log says why not.
    fn attempt(&mut self, action: &ResolvedAction) {
        match door::check(action, &**self.scene) {
            Ok(()) => {
                self.perform(action);
            }
            Err(fault) => self.problem(Problem::BadAction(fault)),
        }
    }

    /// Switches an entity on.
    ///
    /// # Errors
    /// If the scene has no such entity.
    pub fn enable(&mut self, what: impl EntityKey) -> Result<(), Fault> {
        self.switch(what, true)
    }

    /// Switches an entity and its children off.
    ///
    /// # Errors
    /// If the scene has no such entity.
    pub fn disable(&mut self, what: impl EntityKey) -> Result<(), Fault> {
        self.switch(what, false)
    }

    fn switch(&mut self, what: impl EntityKey, on: bool) -> Result<(), Fault> {
        let what = self.scene.entity_id(what)?;
        self.perform(&Action::Switch { what, switch: Switch::Enabled, to: Some(on) });
        Ok(())
    }

    /// Puts an entity where another one is.
    ///
    /// # Errors
    /// If the scene has no such entity.
    pub fn teleport(&mut self, what: impl EntityKey, to: impl EntityKey) -> Result<(), Fault> {
        let (what, to) = (self.scene.entity_id(what)?, self.scene.entity_id(to)?);
        self.perform(&Teleport::of(what, to).into());
        Ok(())
    }

    /// A stat of an entity, with its effects; none if it has no such stat.
    ///
    /// # Errors
    /// If the scene has no such entity.
    pub fn stat(&self, of: impl EntityKey, name: &str) -> Result<Option<f64>, Fault> {
        let of = self.scene.entity_id(of)?;
        Ok(self.facts().stat(of, name))
    }

    /// Adds to a stat of an entity. Whether it has such a stat.
    ///
    /// # Errors
    /// If the scene has no such entity, or the amount is not from -1e15 to 1e15.
    pub fn add_stat(&mut self, of: impl EntityKey, name: &str, amount: f64) -> Result<bool, Fault> {
        let of = self.scene.entity_id(of)?;
        range::AMOUNT.check(amount)?;
        Ok(self.perform(&Action::Stat { name: name.into(), of, change: Change::Add(amount) }))
    }

    /// Takes an entity and its children out of the play.
    ///
    /// # Errors
    /// If the scene has no such entity.
    pub fn remove(&mut self, what: impl EntityKey) -> Result<(), Fault> {
        let what: EntityId = self.scene.entity_id(what)?;
        self.perform(&Action::Remove(what));
        Ok(())
    }
}
