//! What must hold of a state at any time, whatever was done to the play.

use crate::Time;
use crate::describe::EntityId;
use crate::describe::most::MAX_DEPTH;
use crate::model::Scene;

use super::{Mode, State};

impl State {
    /// Holds the parts of a state against one another: who rides on what, who holds what, who is
    /// where, stats, what is under way, what is planned. For tests of hosts and of this library; it
    /// looks at everything, so it takes long.
    ///
    /// ```
    /// use hazuro::{Play, Scene, scene::Entity};
    /// let mut play = Play::new(Scene::builder("Yard").entity(Entity::new("post")).build()?);
    /// play.step();
    /// play.state().assert_consistent(play.scene());
    /// # Ok::<(), hazuro::scene::SceneErrors>(())
    /// ```
    ///
    /// # Panics
    /// If the state is of another scene, or two of its parts contradict one another, which would be a
    /// fault of this library.
    pub fn assert_consistent(&self, scene: &Scene) {
        assert_eq!(self.scene.0, scene.mark(), "it is a state of this scene");
        assert_eq!(self.cast.len(), scene.len(), "each entity lives");
        assert!(self.causes.is_of(scene.len()), "of each entity it is known what stirred it");
        assert_eq!(self.runs.usage.len(), scene.reactions().len(), "each reaction is counted");
        for entity in scene.ids() {
            self.assert_place(scene, entity);
        }
        self.assert_relations(scene);
        self.assert_stock(scene);
        self.assert_detected(scene);
        self.assert_values(scene);
        self.assert_plans(scene);
    }

    /// Where an entity is, and that nothing carries itself.
    fn assert_place(&self, scene: &Scene, entity: EntityId) {
        let name = scene.name(entity);
        let ancestors = self.lineage(scene, entity).take(MAX_DEPTH + 2).count();
        assert!(ancestors <= MAX_DEPTH + 1, "`{name}` is not its own ancestor");
        let most = scene.len() + 1;
        let carriers = self.carriers(scene, entity).take(most).count();
        assert!(carriers < most, "`{name}` does not carry itself");
        let live = self.live(entity);
        let local = self.local_pose(entity, self.now);
        assert!(local.is_valid(), "`{name}` is somewhere, turned somehow: {local:?}");
        let pose = self.pose(scene, entity, self.now);
        assert!(pose.position.is_finite(), "`{name}` is somewhere in the world: {pose:?}");
        if let Some(carrier) = live.rides {
            assert!(
                self.motion.riders.contains(&(carrier, entity)),
                "what carries `{name}` knows it"
            );
        }
        let is_carried = live.stance.as_ref().is_some_and(|stance| stance.mode == Mode::Carried);
        if is_carried {
            assert!(live.rides.is_some(), "`{name}` is carried by somebody");
            assert!(scene.thing(entity).carry.is_some(), "`{name}` can be carried");
        }
    }

    fn assert_stock(&self, scene: &Scene) {
        assert_eq!(self.presence.stocks, self.counted_stocks(scene), "what is in stock is known");
    }

    fn assert_relations(&self, scene: &Scene) {
        for (carrier, rider) in &self.motion.riders {
            let rides = self.live(*rider).rides;
            assert_eq!(rides, Some(*carrier), "`{}` rides on what it rides on", scene.name(*rider));
        }
        for holder in scene.ids() {
            let held: Vec<_> = self.held_by(holder).collect();
            assert!(held.len() <= 1, "`{}` has two hands: {held:?}", scene.name(holder));
            if let [held] = held[..] {
                let gone = self.is_gone(scene, held) || self.is_gone(scene, holder);
                assert!(!gone, "`{}` holds what is there", scene.name(holder));
            }
        }
        for (what, owned) in &self.values.owned {
            let name = scene.name(*what);
            assert!(scene.thing(*what).ownership.is_some(), "`{name}` can be owned");
            let there = !self.is_gone(scene, *what) && !self.is_gone(scene, owned.by);
            assert!(there, "`{name}` and whoever owns it are there");
            let holder = self.holder(*what).unwrap_or(owned.by);
            assert_eq!(holder, owned.by, "`{name}` is in nobody else's hands");
        }
        for (entity, trip) in &self.motion.trips {
            let stops = trip.stops.len();
            let on_way = trip.at < stops && trip.target < stops;
            assert!(on_way, "`{}` is between two of its stops", scene.name(*entity));
        }
        for (entity, held) in &self.motion.held_up {
            assert!(held.left >= Time::ZERO, "`{}` still has a way to go", scene.name(*entity));
        }
    }

    fn assert_detected(&self, scene: &Scene) {
        for ((on, detector), occupancy) in &self.senses.occupancies {
            let name = scene.name(*on);
            assert!(scene.has(*on, *detector), "`{name}` has a {detector}");
            let reported = occupancy.stays.values().filter(|stay| !stay.silent).count();
            assert_eq!(occupancy.reported, reported, "`{name}` counts whom it has told of");
            for ((who, _), stay) in &occupancy.stays {
                let who_name = scene.name(*who);
                assert!(stay.since <= self.now, "{who_name} has come to {name} before now");
                // What was asked before something was switched off is asked again at once.
                let there = !self.is_gone(scene, *who) && !self.is_gone(scene, *on);
                assert!(there, "`{name}` ({detector}) detects `{who_name}`, which is there");
            }
        }
        for (who, prompt) in self.senses.highlights.keys() {
            let stay = self.stay(*prompt, crate::describe::Detector::Prompt, *who);
            assert!(stay.is_some(), "what is highlighted is offered");
        }
        for (pickup, who) in &self.values.left_lying {
            let stays = self.stay(*pickup, crate::describe::Detector::Zone, *who);
            assert!(stays.is_some(), "who has left a pickup lying is there");
        }
        for (player, holding) in &self.senses.holdings {
            assert!(holding.since <= self.now, "`{}` holds a key", scene.name(*player));
        }
    }

    fn assert_values(&self, scene: &Scene) {
        for (entity, stat) in self.values.stat_tracks.keys() {
            let (name, stat_name) = (scene.name(*entity), scene.stat_name(*stat));
            let spec = scene.stat(*entity, *stat);
            let Some(spec) = spec else { panic!("`{name}` has the stat `{stat_name}`") };
            let is = self.stat(scene, *entity, *stat).unwrap_or(f64::NAN);
            let fits = is.is_finite() && (spec.least..=spec.most).contains(&is);
            assert!(fits, "the stat `{stat_name}` of `{name}` is in its range: {is}");
        }
        for (entity, effects) in &self.values.effects {
            assert!(!effects.is_empty(), "what has no effect is not listed");
            for active in effects {
                let ends = active.until.is_none_or(|until| until >= self.now);
                assert!(ends, "an effect on `{}` ends in time", scene.name(*entity));
            }
        }
        for tags in self.values.tags.values() {
            assert!(tags.is_sorted_by(|one, other| one < other), "tags are in order, each once");
        }
    }

    fn assert_plans(&self, scene: &Scene) {
        for run in self.runs.under_way.values() {
            assert!(run.reaction.index() < scene.reactions().len(), "what runs is a reaction");
            let goes_on = run.next_round.is_some() || !run.threads.is_empty();
            assert!(goes_on, "what is under way has something to do");
            let due = run.threads.iter().map(|thread| thread.due).chain(run.next_round).min();
            assert!(due.is_none_or(|due| due >= self.now), "nothing under way is overdue");
        }
        for entity in &self.presence.awaited {
            assert!(self.live(*entity).removed, "who is awaited is not there yet");
        }
        let queued: usize = self.runs.queues.values().map(std::collections::VecDeque::len).sum();
        assert_eq!(self.runs.queued, queued, "what waits in queues is counted");
        assert!(self.runs.queues.values().all(|queue| !queue.is_empty()), "no queue is empty");
        let next = self.schedule.next().map_or(Time::MAX, |due| due.time);
        assert!(next >= self.now, "nothing that is planned is overdue: {next} before {}", self.now);
    }
}
