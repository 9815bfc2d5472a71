//! Where there is room for a body.

use glam::{DVec2, DVec3};

use crate::describe::{EntityId, Legs};
use crate::geometry::Pose;
use crate::model::{Mover, Scene};
use crate::space::Space;

use super::contact::Around;
use super::load::mover_of;
use super::tolerance::{CLEAR, LIFT, SHORT_OF};

/// How a body, even one that does not move by itself, looks at what is around it.
fn looking<T>(space: Space<'_>, who: EntityId, look: impl FnOnce(&Around<'_>) -> T) -> Option<T> {
    if let Some(mover) = mover_of(space, who) {
        return Some(look(&Around { space, who, mover: &mover, holder: None }));
    }
    let body = space.scene.thing(who).body.as_ref()?;
    let mover = Mover::of(body, Some(Legs::default()), None);
    Some(look(&Around { space, who, mover: &mover, holder: None }))
}

/// Whether nothing is in a body's way at a pose. Without a body there is always room.
pub(crate) fn has_room(space: Space<'_>, who: EntityId, pose: &Pose) -> bool {
    looking(space, who, |around| around.depths(pose).is_empty()).unwrap_or(true)
}

/// The pose let down to the ground, if there is any within a step below it to stand on.
pub(crate) fn on_ground(space: Space<'_>, who: EntityId, pose: Pose) -> Option<Pose> {
    looking(space, who, |around| {
        let step = around.step().max(0.1);
        let lifted = Pose { position: pose.position + DVec3::Y * LIFT, ..pose };
        let (depth, ..) = around.drop(lifted, step + LIFT)?;
        Some(Pose { position: lifted.position - DVec3::Y * depth, ..pose })
    })?
}

/// Places beside one, ever farther away.
pub(crate) fn places_beside(
    scene: &Scene,
    who: EntityId,
    pose: Pose,
) -> impl Iterator<Item = Pose> {
    let bounds = scene.thing(who).body.as_ref().map(|body| body.bounds_at(&Pose::IDENTITY));
    let size = bounds.map_or(1.0, |bounds| (bounds.max - bounds.min).max_element().min(4.0));
    let width = bounds.map_or(size, |it| (it.max.x - it.min.x).max(it.max.z - it.min.z));
    (1..=3).flat_map(move |ring| {
        (0..8).map(move |way| {
            let angle = f64::from(way) * std::f64::consts::FRAC_PI_4;
            let way = DVec2::from_angle(angle) * (width * 1.1 * f64::from(ring));
            Pose { position: pose.position + DVec3::new(way.x, 0.0, way.y), ..pose }
        })
    })
}

/// Where something is held, or leaves the hand of its holder: where it is meant to be, or as far from the
/// holder that way as nothing is between; none if there is no room even where the holder stands.
pub(crate) fn hand(
    space: Space<'_>,
    (what, held): (EntityId, Pose),
    holder: EntityId,
) -> Option<Pose> {
    let (state, scene) = (space.state, space.scene);
    let around = Around { space, who: what, mover: scene.mover(what)?, holder: Some(holder) };
    let place = state.pose(scene, holder, state.now).position;
    let mut from = Pose { position: DVec3 { y: held.position.y, ..place }, ..held };
    // Where the holder fits, what they hold nearly fits, too.
    for _ in 0..8 {
        let deepest = around
            .depths(&from)
            .into_iter()
            .reduce(|deepest, next| if next.gap < deepest.gap { next } else { deepest });
        let Some(deepest) = deepest else { break };
        from.position -= deepest.normal * (deepest.gap - CLEAR);
    }
    let aside = from.position - place;
    let width = scene.thing(holder).body.as_ref().map_or(f64::INFINITY, |body| {
        let bounds = body.bounds_at(&Pose::IDENTITY);
        (bounds.max.x - bounds.min.x).max(bounds.max.z - bounds.min.z)
    });
    if !around.depths(&from).is_empty() || DVec2::new(aside.x, aside.z).length() > width / 2.0 {
        return None;
    }
    let way = held.position - from.position;
    let share = match around.in_way(from, held.position) {
        Some(hit) => (hit.fraction - SHORT_OF).max(0.0),
        None => 1.0,
    };
    Some(Pose { position: from.position + way * share, ..held })
}
