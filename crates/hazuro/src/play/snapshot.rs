//! What a render thread has to know of a moment, apart from the play.

use crate::Time;
use crate::describe::{Detector, EntityId, Switch};
use crate::geometry::Pose;

use super::Play;

/// A moment of a play, to be drawn elsewhere: where everything is, what is shown and on, who is inside
/// what, what is offered to whom, and whose things are. It is `Send` and `Sync`, knows nothing of the play any more, and
/// keeps its memory when it is taken again.
///
/// ```
/// use std::sync::mpsc;
/// use hazuro::{Play, Scene, Snapshot, geometry::Shape, scene::{Body, Entity, Zone}};
/// let scene = Scene::builder("Yard")
///     .entity(Entity::new("ball").body(Body::new(Shape::Sphere { radius: 0.1 })))
///     .entity(Entity::new("pad").zone(Zone::new(Shape::Box { size: [1.0; 3] })))
///     .build()?;
/// let mut play = Play::new(scene);
/// let [ball, pad] = ["ball", "pad"].map(|name| play.scene().find(name).unwrap());
/// let (to_render, drawn) = mpsc::channel::<Snapshot>();
/// let render = std::thread::spawn(move || {
///     drawn.iter().map(|frame| (frame.pose(ball).position.x, frame.occupants(pad).len())).collect()
/// });
/// for x in [0.0, 0.2, 5.0] {
///     play.place(ball, [x, 0.0, 0.0])?;
///     play.step();
///     to_render.send(play.snapshot())?;
/// }
/// drop(to_render);
/// let seen: Vec<(f64, usize)> = render.join().unwrap();
/// assert_eq!(seen, [(0.0, 1), (0.2, 1), (5.0, 0)]);
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Snapshot {
    time: Time,
    poses: Vec<Pose>,
    shown: Vec<bool>,
    on: Vec<bool>,
    /// By zone and subject, in order.
    inside: Vec<(EntityId, EntityId)>,
    /// By player and prompt, in order.
    offers: Vec<(EntityId, EntityId)>,
    /// By thing and owner, in order.
    owned: Vec<(EntityId, EntityId)>,
}

impl Snapshot {
    /// When it was taken.
    pub fn time(&self) -> Time {
        self.time
    }

    /// Where an entity was in the world.
    ///
    /// # Panics
    /// If the snapshot is of another scene, with fewer entities.
    pub fn pose(&self, entity: EntityId) -> Pose {
        self.poses[entity.index()]
    }

    /// Where all entities were in the world, in the scene's order.
    pub fn poses(&self) -> &[Pose] {
        &self.poses
    }

    /// Whether an entity and all its ancestors were shown, and in the play.
    ///
    /// # Panics
    /// As [`pose`](Self::pose).
    pub fn is_visible(&self, entity: EntityId) -> bool {
        self.shown[entity.index()]
    }

    /// Whether an entity and all its ancestors were on, and in the play.
    ///
    /// # Panics
    /// As [`pose`](Self::pose).
    pub fn is_enabled(&self, entity: EntityId) -> bool {
        self.on[entity.index()]
    }

    /// The subjects inside a zone at that time, in the scene's order.
    pub fn occupants(&self, zone: EntityId) -> impl ExactSizeIterator<Item = EntityId> {
        of(&self.inside, zone)
    }

    /// The prompts that were offered to a player, in the scene's order.
    pub fn offers(&self, player: EntityId) -> impl ExactSizeIterator<Item = EntityId> {
        of(&self.offers, player)
    }

    /// Whose a thing was, if it belonged to anybody.
    pub fn owner(&self, thing: EntityId) -> Option<EntityId> {
        of(&self.owned, thing).next()
    }
}

/// The second of those pairs that begin with this one.
fn of(pairs: &[(EntityId, EntityId)], first: EntityId) -> impl ExactSizeIterator<Item = EntityId> {
    let from = pairs.partition_point(|(it, _)| *it < first);
    let until = pairs.partition_point(|(it, _)| *it <= first);
    pairs[from..until].iter().map(|(_, second)| *second)
}

impl Play {
    /// The present moment, to be drawn elsewhere.
    pub fn snapshot(&self) -> Snapshot {
        let mut snapshot = Snapshot::default();
        self.snapshot_into(&mut snapshot);
        snapshot
    }

    /// As [`snapshot`](Self::snapshot), in the memory of an earlier one. Nothing is allocated if that
    /// was as large.
    pub fn snapshot_into(&self, snapshot: &mut Snapshot) {
        let (scene, state) = (&*self.scene, &self.state);
        let Snapshot { time, poses, shown, on, inside, offers, owned } = snapshot;
        *time = state.now;
        poses.clear();
        poses.extend(scene.ids().map(|entity| state.pose(scene, entity, state.now)));
        for (list, switch) in [(shown, Switch::Visible), (on, Switch::Enabled)] {
            list.clear();
            list.extend(scene.ids().map(|entity| state.off_by(scene, entity, switch).is_none()));
        }
        inside.clear();
        offers.clear();
        for ((detects, detector), occupancy) in &state.senses.occupancies {
            let told = || occupancy.stays.iter().filter(|(_, stay)| !stay.silent);
            match detector {
                Detector::Zone => inside.extend(told().map(|((who, _), _)| (*detects, *who))),
                Detector::Prompt => offers.extend(told().map(|((who, _), _)| (*who, *detects))),
                _ => {}
            }
        }
        inside.dedup();
        offers.sort_unstable();
        offers.dedup();
        owned.clear();
        owned.extend(state.values.owned.iter().map(|(what, owned)| (*what, owned.by)));
    }
}
