//! Where to come from, and where to stand.

use hazuro::geometry::{Aabb, Pose, Ray};
use hazuro::glam::DVec3;
use hazuro::scene::Detector;
use hazuro::{EntityId, Filter, Play, Scene};

use crate::words::round;

/// How far something without an end is taken to reach, in metres.
const ENOUGH: f64 = 2.0;

/// The four level directions, by name.
pub(super) const SIDES: [(&str, DVec3); 4] =
    [("west", DVec3::NEG_X), ("east", DVec3::X), ("north", DVec3::NEG_Z), ("south", DVec3::Z)];

/// The bounds of what an entity detects with, in the world; of its origin if it has no shape.
pub(super) fn bounds(scene: &Scene, (on, detector): (EntityId, Detector)) -> Aabb {
    let pose = scene.pose(on);
    let form = scene.region_form(on, detector).or_else(|| scene.zone_form(on));
    let bounds = form.map(|form| form.bounds(&pose)).or_else(|| scene.solid_bounds(on, &pose));
    let bounds = bounds.or_else(|| scene.body_bounds(on, &pose));
    let here = pose.position;
    let bounds = bounds.unwrap_or(Aabb { min: here, max: here });
    // What has no end is tried near its origin.
    let (low, high) = (here - DVec3::splat(ENOUGH), here + DVec3::splat(ENOUGH));
    let end = |along: f64, instead: f64| if along.abs() < 1e4 { along } else { instead };
    let fold = |from: DVec3, instead: DVec3| {
        DVec3::new(end(from.x, instead.x), end(from.y, instead.y), end(from.z, instead.z))
    };
    Aabb { min: fold(bounds.min, low), max: fold(bounds.max, high) }
}

/// From the origin of a body to its middle, and half its size.
pub(super) fn size(scene: &Scene, who: EntityId) -> (DVec3, DVec3) {
    let turned = Pose { position: DVec3::ZERO, ..scene.pose(who) };
    let bounds = scene.body_bounds(who, &turned);
    let bounds = bounds.unwrap_or(Aabb { min: DVec3::ZERO, max: DVec3::ZERO });
    ((bounds.min + bounds.max) / 2.0, (bounds.max - bounds.min) / 2.0)
}

/// Where one can stand at a place, not above a height.
pub(super) fn ground(play: &Play, place: DVec3, below: f64) -> Option<DVec3> {
    let above = DVec3 { y: below, ..place };
    let ray = Ray::new(above, DVec3::NEG_Y, 1e4).ok()?;
    let hits = play.space().ray_all(&ray, &Filter::solids());
    let hit = hits.iter().find(|hit| !hit.inside && hit.normal.y > 0.3).map(|hit| hit.point.y);
    let floor = play.scene().floor_height().filter(|floor| *floor <= below);
    let height = match (hit, floor) {
        (Some(hit), Some(floor)) => Some(hit.max(floor)),
        (hit, floor) => hit.or(floor),
    }?;
    Some(DVec3 { y: height, ..place })
}

/// A place as it stands in a file.
pub(super) fn place(place: DVec3) -> String {
    let [x, y, z] = place.to_array().map(|along| round((along * 1e4).round() / 1e4));
    format!("[{x}, {y}, {z}]")
}
