//! The door for all that a host or a tape does to a play. Each input is checked here, at the call:
//! what is refused changes nothing.

use crate::Time;
use crate::describe::most::MAX_PLANNED;
use crate::describe::{Action, EntityId, Fault, Limits};
use crate::model::{EntityKey, door};
use crate::state::{Cause, Input, State, Target};

use super::converting::fit;
use super::watch::Watch;
use super::{Play, intents, meant};

impl Play {
    /// Drives a body straight and evenly to a place or pose in the world, to be there when the
    /// next step ends.
    ///
    /// # Errors
    /// If the scene has no such entity, it is not in the play, a coordinate is not from -1,000,000
    /// to 1,000,000 metres, or the rotation is not of length 1.
    pub fn drive(&mut self, who: impl EntityKey, to: impl Into<Target>) -> Result<(), Fault> {
        let (who, to) = (self.present(who)?, to.into());
        to.check(&self.scene)?;
        self.room_for(1)?;
        self.tell_place(who, to);
        Ok(())
    }

    /// Drives many bodies at once, each as [`drive`](Self::drive) does: the first to the first place, and
    /// so on. If any of them cannot be, none is.
    ///
    /// ```
    /// use hazuro::{Play, Scene, geometry::Shape, scene::{Body, Entity}};
    /// let ball = |name: &str| Entity::new(name).body(Body::new(Shape::Sphere { radius: 0.1 }));
    /// let scene = Scene::builder("Yard").entity(ball("red")).entity(ball("blue")).build()?;
    /// let mut play = Play::new(scene);
    /// let balls = ["red", "blue"].map(|name| play.scene().find(name).unwrap());
    /// let mut places = [[0.0_f32, 0.0, 0.0], [1.0, 0.0, 0.0]];
    /// for _ in 0..60 {
    ///     places.iter_mut().for_each(|place| place[0] += 0.05);
    ///     play.drive_all(&balls, &places)?;
    ///     play.step();
    /// }
    /// assert!((play.pose("blue")?.position.x - 4.0).abs() < 1e-5);
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    ///
    /// # Errors
    /// As [`drive`](Self::drive), for the first that cannot be driven; and if there are more of the ones
    /// than of the others.
    pub fn drive_all<P: Copy + Into<Target>>(
        &mut self,
        bodies: &[EntityId],
        to: &[P],
    ) -> Result<(), Fault> {
        if bodies.len() != to.len() {
            return Err(Fault::Uneven { bodies: bodies.len(), places: to.len() });
        }
        for (who, to) in bodies.iter().zip(to) {
            self.present(*who)?;
            (*to).into().check(&self.scene)?;
        }
        self.room_for(bodies.len())?;
        for (who, to) in bodies.iter().zip(to) {
            self.tell_place(*who, (*to).into());
        }
        Ok(())
    }

    fn tell_place(&mut self, who: EntityId, to: Target) {
        let until = self.next_tick();
        self.state.schedule.tell(self.state.now, who, to, until);
    }

    /// Puts an entity at a place or pose in the world; nothing between is swept.
    ///
    /// # Errors
    /// As [`drive`](Self::drive).
    pub fn place(&mut self, who: impl EntityKey, at: impl Into<Target>) -> Result<(), Fault> {
        let (who, at) = (self.present(who)?, at.into());
        self.schedule(self.state.now, Input::Place { who, at })
    }

    /// Lets an entity begin at another place or pose in the world than the scene's. Once the play
    /// has begun it is [put](Self::place) there.
    ///
    /// # Errors
    /// As [`drive`](Self::drive).
    pub fn begin_at(&mut self, who: impl EntityKey, at: impl Into<Target>) -> Result<(), Fault> {
        if self.state.started {
            return self.place(who, at);
        }
        let (who, at) = (self.present(who)?, at.into());
        at.check(&self.scene)?;
        intents::place(&self.scene, &mut self.state, who, at);
        self.runtime.watch.disturb(&self.scene, &self.state, who, Cause::Appear);
        Ok(())
    }

    /// Does an action that needs no event.
    ///
    /// # Errors
    /// If it names what the scene does not have, or `who` or `on`; if a number is out of the range
    /// it has in a scene file; or if it waits.
    pub fn act(&mut self, action: impl Into<Action>) -> Result<(), Fault> {
        for action in meant::find(&self.scene, &self.state, &action.into(), None)? {
            self.schedule(self.state.now, Input::Act(action))?;
        }
        Ok(())
    }

    /// Limits how often the detectors of an entity may act from now on; what they did before counts.
    ///
    /// # Errors
    /// If the scene has no such entity, the cooldown is not from 0 to 3,000,000 seconds, or the
    /// limit is 0.
    pub fn limit(&mut self, what: impl EntityKey, limits: Limits) -> Result<(), Fault> {
        let what = self.scene.entity_id(what)?;
        self.schedule(self.state.now, Input::Limit { what, limits })
    }

    /// Lets the detectors of an entity begin anew: no cooldown, nothing used up.
    ///
    /// # Errors
    /// If the scene has no such entity.
    pub fn renew(&mut self, what: impl EntityKey) -> Result<(), Fault> {
        let what = self.scene.entity_id(what)?;
        self.schedule(self.state.now, Input::Renew(what))
    }

    /// Takes an entity and its children out of the play, until it is [added](Self::add) again.
    ///
    /// # Errors
    /// If the scene has no such entity.
    pub fn remove(&mut self, what: impl EntityKey) -> Result<(), Fault> {
        let what = self.scene.entity_id(what)?;
        self.schedule(self.state.now, Input::Remove(what))
    }

    /// Ends what the reaction of this name still has to do, at the start of the next step.
    ///
    /// # Errors
    /// If the scene has no reaction of this name.
    pub fn stop(&mut self, name: &str) -> Result<(), Fault> {
        let reaction = door::Names::reaction(&*self.scene, name)?;
        self.schedule(self.state.now, Input::Stop(reaction))
    }

    /// Lets an input happen at this time, or now if that is past.
    ///
    /// Whether an entity is in the play is known only when the time comes; if it is not, the input
    /// is left out and the log says so.
    ///
    /// # Errors
    /// If it means an entity or a reaction that this scene does not have, a number is out of the
    /// range it has in a file, a rotation is not of length 1, an action cannot be done without an
    /// event, or 2,000,000 inputs wait already.
    pub fn schedule(&mut self, time: Time, input: Input) -> Result<(), Fault> {
        input.check(&self.scene)?;
        self.room_for(1)?;
        if let Input::Add { what, .. } = input {
            self.state.await_entry(&self.scene, what);
        }
        self.state.schedule.put_input(time, self.state.now, input);
        Ok(())
    }

    /// How many inputs the play has been given: by [`schedule`](Self::schedule), `drive`, `act` and
    /// the like. The next one has this number in [`Origin::Input`](crate::Origin::Input).
    pub fn inputs_given(&self) -> u64 {
        self.state.schedule.inputs()
    }

    /// Goes on from a state that a play of this scene had. Handlers stay. What was
    /// [added](Self::add) after that is out of the play, and can be added again.
    ///
    /// # Errors
    /// If the state is of a play of another scene: one that has other entities, kinds, reactions,
    /// stats, effects or tags.
    pub fn restore(&mut self, mut state: State) -> Result<(), Fault> {
        if !self.scene.has_had(state.scene.0) {
            return Err(Fault::OtherScene);
        }
        state.grow(&self.scene);
        fit(&mut self.scene, &state)?;
        self.state = state;
        self.runtime.watch = Watch::new(&self.scene, &self.state);
        self.runtime.entries.clear();
        Ok(())
    }

    /// That `inputs` more may wait.
    pub(super) fn room_for(&self, inputs: usize) -> Result<(), Fault> {
        let waiting = self.state.schedule.len();
        if waiting + inputs > MAX_PLANNED { Err(Fault::TooManyInputs) } else { Ok(()) }
    }

    /// An entity that is in the play.
    fn present(&self, key: impl EntityKey) -> Result<EntityId, Fault> {
        let entity = self.scene.entity_id(key)?;
        let (scene, state) = (&self.scene, &self.state);
        // Who has leeway is there; it is asked of thousands each tick.
        if self.runtime.watch.has_leeway(state, entity) {
            return Ok(entity);
        }
        let here = |it: EntityId| !state.live(it).removed || state.presence.awaited.contains(&it);
        if !state.lineage(scene, entity).all(here) {
            return Err(Fault::NotInPlay { name: self.scene.name(entity).into() });
        }
        Ok(entity)
    }
}
