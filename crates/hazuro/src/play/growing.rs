//! Entities that come into a play while it runs.

use std::collections::BTreeSet;
use std::sync::Arc;

use crate::describe::{Entity, EntityId, Fault, Field, KindId, Named, SceneError, SceneErrors};
use crate::geometry::Pose;
use crate::model::Scene;
use crate::state::{Cause, Input, Target};

use super::Play;

impl Play {
    /// Adds an entity; it comes in when the next step begins, or is there from the start if the play has
    /// not begun. It is part of [`scene`](Self::scene) from now on, after all others: reactions and
    /// handlers that wait for its kind, its tags or its layers wait for it, too.
    ///
    /// What was [removed](Self::remove) may be added again under its name, described as it was: it is
    /// the same again, with the same id. No id is ever given to anything else, and what is not in the
    /// play keeps its place, about a kilobyte. So let names come again where much comes and goes, or
    /// [`spawn`](Self::spawn) it. If the host has kept the scene that it gave to the play, the play makes a
    /// copy of it, once, to add to.
    ///
    /// ```
    /// use hazuro::{Play, Scene, geometry::Shape, scene::{Action, Body, Entity, Kind, Zone}};
    /// use hazuro::scene::{Reaction, Trigger};
    /// let scene = Scene::builder("Yard")
    ///     .kind(Kind::new("pad").zone(Zone::new(Shape::Box { size: [1.0; 3] })))
    ///     .entity(Entity::new("ball").body(Body::new(Shape::Sphere { radius: 0.1 })))
    ///     .reaction(Reaction::on(Trigger::enter("kind:pad")).then(Action::add("visits", 1)))
    ///     .build()?;
    /// let mut play = Play::new(scene);
    /// play.step();
    /// let pad = play.add(Entity::new("first pad").kind("pad"))?;
    /// play.step();
    /// assert_eq!(play.count("visits"), 1);
    /// assert_eq!(play.scene().name(pad), "first pad");
    ///
    /// let wrong = play.add(Entity::new("second pad").kind("pda")).unwrap_err();
    /// assert_eq!(wrong.to_string(), "entity[0].kind: there is no kind named `pda`");
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    ///
    /// # Errors
    /// Everything that is wrong with it, as when a scene is built; also if something of its name is in
    /// the play, or was and is described otherwise. Then nothing is added.
    pub fn add(&mut self, entity: Entity) -> Result<EntityId, SceneErrors> {
        self.add_all([entity]).map(|added| added[0])
    }

    /// Adds several entities, which may be one another's parents. They come in in this order.
    ///
    /// # Errors
    /// Everything that is wrong with any of them, which is then numbered from 0; names that are taken are
    /// told before anything else is looked at. Then nothing is added.
    pub fn add_all(
        &mut self,
        entities: impl IntoIterator<Item = Entity>,
    ) -> Result<Vec<EntityId>, SceneErrors> {
        let (mut added, mut new, mut errors) = (Vec::new(), Vec::new(), Vec::new());
        let mut back = BTreeSet::new();
        for (number, entity) in entities.into_iter().enumerate() {
            let known = self.scene.find(entity.name());
            match known.map_or(Ok(()), |known| self.may_come_back(known, &entity, &mut back)) {
                Ok(()) => {
                    added.push(known);
                    new.extend(known.is_none().then_some(entity));
                }
                Err(fault) => {
                    let field = Field::ROOT.key("entity").item(number).key("name");
                    errors.push(SceneError { field, fault });
                }
            }
        }
        if let Err(fault) = self.room_for(added.len()) {
            errors.push(SceneError { field: Field::ROOT.key("entity"), fault });
        }
        if !errors.is_empty() {
            return Err(SceneErrors(errors));
        }
        let first = self.scene.len();
        if !new.is_empty() {
            self.grow(|scene| scene.grow(new, false))?;
        }
        let mut new = self.scene.ids().skip(first);
        let added: Vec<EntityId> =
            added.into_iter().filter_map(|known| known.or_else(|| new.next())).collect();
        for what in &added {
            self.let_in(*what, None);
        }
        Ok(added)
    }

    /// Brings one of a kind out at a place or pose in the world, when the next step begins: the first of
    /// its stock that is out of the play or, if none is, one more than there were.
    ///
    /// ```
    /// use hazuro::{Play, Scene, scene::Kind};
    /// let mut play = Play::new(Scene::builder("Yard").kind(Kind::new("leaf")).build()?);
    /// let leaf = play.spawn("leaf", [1.0, 2.0, 0.0])?;
    /// play.step();
    /// assert_eq!(play.pose(leaf)?.position.y, 2.0);
    /// assert_eq!(play.scene().name(leaf), "leaf#1");
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    ///
    /// # Errors
    /// If the scene has no such kind, the place is not from -1,000,000 to 1,000,000 metres, or 2,000,000
    /// inputs wait already.
    pub fn spawn(&mut self, kind: &str, at: impl Into<Pose>) -> Result<EntityId, Fault> {
        let (kind, at) = (self.scene.kind_id(kind)?, at.into());
        Target::Pose(at).check(&self.scene)?;
        self.room_for(1)?;
        let found = self.state.first_in_stock(&self.scene, kind);
        let what = found.map_or_else(|| self.one_more(kind), Ok)?;
        self.let_in(what, Some(at));
        Ok(what)
    }

    /// One more of a kind.
    fn one_more(&mut self, kind: KindId) -> Result<EntityId, Fault> {
        let first = self.scene.len();
        let grown = self.grow(|scene| scene.grow_stock(kind));
        // Of several faults, the first; there is at least one.
        grown.map_err(|mut errors| errors.0.swap_remove(0).fault)?;
        Ok(self.scene.numbering.entity(first))
    }

    /// Lets the scene grow, and all that knows it.
    pub(crate) fn grow(
        &mut self,
        grow: impl FnOnce(&mut Scene) -> Result<(), SceneErrors>,
    ) -> Result<(), SceneErrors> {
        let (first, before) = (self.scene.len(), self.scene.reaches());
        grow(Arc::make_mut(&mut self.scene))?;
        self.state.grow(&self.scene);
        let reaches_anew = before != self.scene.reaches();
        self.runtime.watch.grow(&self.scene, &self.state, first, reaches_anew);
        self.runtime.handlers.meet(&self.scene, self.scene.ids().skip(first));
        Ok(())
    }

    /// Lets something in that is out of the play: at once if the play has not begun.
    fn let_in(&mut self, what: EntityId, at: Option<Pose>) {
        if self.state.started {
            let input = Input::Add { what, at };
            self.state.await_entry(&self.scene, what);
            self.state.schedule.put_input(self.state.now, self.state.now, input);
        } else {
            self.state.bring_into_play(&self.scene, what);
            if let Some(at) = at {
                self.state.put(what, at);
            }
            self.runtime.watch.disturb(&self.scene, &self.state, what, Cause::Appear);
        }
    }

    /// That this is described as something known that is out of the play and not asked for yet; it is
    /// one of those that come `back`, then.
    fn may_come_back(
        &self,
        known: EntityId,
        entity: &Entity,
        back: &mut BTreeSet<EntityId>,
    ) -> Result<(), Fault> {
        let name = || self.scene.name(known).to_owned();
        let awaited = self.state.presence.awaited.contains(&known) || !back.insert(known);
        if awaited || !self.state.live(known).removed || self.scene.thing(known).stocked {
            let first = Field::ROOT.key("entity").item(known.index());
            return Err(Fault::Duplicate { what: Named::Entity, name: name(), first });
        }
        if self.scene.entity(known) != entity {
            return Err(Fault::DescribedOtherwise { name: name() });
        }
        Ok(())
    }
}
