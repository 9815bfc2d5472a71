//! Where things are: what is moved into its own detector, teleports that lead astray, rays that
//! begin in something, prompts out of reach, screens that are not covered.

use hazuro::geometry::{Pose, Ray, Shape, cast};
use hazuro::glam::DVec3;
use hazuro::scene::{
    Action, Destination, Detector, EventKind, Field, Lens, Move, Quantity, Reaction, Teleport,
    Then, Trigger,
};
use hazuro::{EntityId, Filter, Scene};
use hazuro_format::Code;

use super::Checker;
use super::reactions::actions;
use crate::meaning::{meant_with, names};

/// How deep something may be in a solid before it counts as inside, in metres.
const DEEP: f64 = 0.05;

pub(super) fn check(checker: &mut Checker<'_>) {
    let scene = checker.scene;
    for (index, reaction) in scene.reactions().iter().enumerate() {
        let field = Field::ROOT.key("reaction").item(index);
        for (action, place) in actions(reaction, &field) {
            match action {
                Action::Move(told) => sets_itself_off(checker, reaction, told, &place),
                Action::Teleport(told) => teleports(checker, reaction, told, &place),
                _ => {}
            }
        }
    }
    for id in scene.described() {
        never_moves(checker, id);
        if scene.has(id, Detector::Probe) {
            starts_inside(checker, id);
        }
        if scene.has(id, Detector::Prompt) {
            out_of_reach(checker, id);
        }
        if scene.has(id, Detector::Pointer) {
            smaller_than_view(checker, id);
        }
    }
}

/// A route whose stops are all at one place, without any time between them.
fn never_moves(checker: &mut Checker<'_>, id: EntityId) {
    let scene = checker.scene;
    let Some(route) = scene.route_of(id).filter(|route| route.wait == 0.0) else { return };
    if route.then == Then::Stop {
        return;
    }
    let pose = |name: &String| match name.as_str() {
        "home" => Some(scene.pose(id)),
        name => scene.find(name).map(|stop| scene.pose(stop)),
    };
    let stops: Option<Vec<_>> = route.through.iter().map(pose).collect();
    let Some([first, rest @ ..]) = stops.as_deref() else { return };
    let same =
        |stop: &Pose| stop.position.distance(first.position) < 1e-9 && stop.angle_to(first) < 1e-9;
    if rest.iter().all(same) {
        let message =
            format!("`{}` never moves: all stops of its route are at one place", scene.name(id));
        let field = checker.place(id, "route");
        let help = "move one of the stops, or let it `wait` there";
        checker.warn(&field, Code::NeverMoves, message, help);
    }
}

/// The zones and touch detectors of a reaction's triggers by which subjects begin to be detected.
fn regions(scene: &Scene, reaction: &Reaction) -> Vec<(EntityId, Detector)> {
    let mut all = Vec::new();
    for trigger in reaction.triggers() {
        let Trigger::Detected { event, on, .. } = trigger else { continue };
        let detector = match event {
            EventKind::Enter | EventKind::Exit | EventKind::Inside => Detector::Zone,
            EventKind::Touch | EventKind::Untouch => Detector::Touch,
            _ => continue,
        };
        all.extend(scene.select(on).unwrap_or_default().into_iter().map(|on| (on, detector)));
    }
    all
}

/// Something that is moved within the detector that moves it, and is admitted there.
fn sets_itself_off(checker: &mut Checker<'_>, reaction: &Reaction, told: &Move, place: &Field) {
    let scene = checker.scene;
    let Some(all) = checker.meant(&told.what) else { return };
    for (on, detector) in regions(scene, reaction) {
        let solids = scene.touch_of(on).is_some_and(|touch| touch.solids);
        let zone = scene.pose(on);
        for what in &all {
            let home = scene.pose(*what);
            let there = match &told.to {
                Destination::Entity(to) => meant_with(scene, to, Some(on)).map(|to| scene.pose(to)),
                Destination::By(by) => {
                    let [x, y, z] = by.each_ref().map(Quantity::fixed);
                    let by = x.zip(y).zip(z).map(|((x, y), z)| DVec3::new(x, y, z));
                    by.map(|by| Pose { position: home.position + by, ..home })
                }
                Destination::Home | Destination::Point => None,
            };
            // With what it carries along.
            let moved = scene.family(*what).find(|part| {
                let detected = match detector {
                    Detector::Touch if solids => scene.is_solid(*part) || scene.has_body(*part),
                    _ => scene.has_body(*part),
                };
                let apart = !scene.lineage(on).any(|up| up == *part)
                    && !scene.lineage(*part).any(|up| up == on);
                let own = home.inverse() * scene.pose(*part);
                let meets =
                    |pose: Pose| scene.would_meet((on, detector, &zone), (*part, &(pose * own)));
                detected
                    && apart
                    && scene.admits(on, *part)
                    && (meets(home) || there.is_some_and(meets))
            });
            if let Some(part) = moved {
                let (name, part) = (scene.name(on), scene.name(part));
                let message = format!("`{name}` moves `{part}`, which sets `{name}` off itself");
                let help = format!(
                    "let `{name}` not admit it: admit = {{ not = {{ names = [\"{part}\"] }} }}"
                );
                let admit = serde_json::json!({ "not": { "names": [part] } });
                checker.warn(&place.key("move"), Code::SetsItselfOff, message, help);
                if scene.admit_of(on).is_none() {
                    let table = checker.scene.field(on);
                    checker.cure(|file| Some(vec![file.set(&table, "admit", &admit)?]));
                }
                return;
            }
        }
    }
}

/// Somebody with a body whom a detector admits, to try a place with.
fn visitor(scene: &Scene, on: EntityId) -> Option<EntityId> {
    let admitted = |id: &EntityId| scene.has_body(*id) && scene.admits(on, *id);
    // A player before others: for them are most teleports.
    let player = |id: &EntityId| admitted(id) && scene.is_player(*id);
    scene.described().find(player).or_else(|| scene.described().find(admitted))
}

/// Destinations in a teleporting zone, in something solid, or nowhere.
fn teleports(checker: &mut Checker<'_>, reaction: &Reaction, told: &Teleport, place: &Field) {
    let scene = checker.scene;
    let zones: Vec<EntityId> = regions(scene, reaction)
        .into_iter()
        .filter(|(_, detector)| *detector == Detector::Zone)
        .map(|(on, _)| on)
        .collect();
    let anybody = || scene.described().find(|id| scene.is_player(*id) && scene.has_body(*id));
    let first = match zones.first() {
        Some(zone) => visitor(scene, *zone),
        None => anybody(),
    };
    let named = checker.meant(&told.what).and_then(|all| all.first().copied());
    let Some(who) = named.or(first).filter(|who| scene.has_body(*who)) else { return };
    for Way { number, from: zones, to } in ways(scene, told, &zones) {
        let name = scene.name(to);
        let field = place.key("to");
        let field = if told.to.len() > 1 { field.item(number) } else { field };
        let pose = scene.pose(to);
        let meets = |zone: EntityId| {
            scene.would_meet((zone, Detector::Zone, &scene.pose(zone)), (who, &pose))
        };
        if let Some(zone) = zones.iter().find(|zone| !told.keep_offset && meets(**zone)) {
            let zone = scene.name(*zone);
            let message = format!("`{name}` lies in `{zone}`, the zone that sends there");
            let help = "move the destination out of it: whoever arrives is not sent on before \
                        having left";
            checker.warn(&field, Code::TeleportsInPlace, message, help);
        } else if let Some(other) = sends_on(scene, &zones, who, &meets) {
            let other = scene.name(other);
            let message = format!("`{name}` lies in `{other}`, which is a teleport itself");
            let help = "move it out: whoever arrives is not sent on, and must leave first";
            checker.warn(&field, Code::TeleportsIntoZone, message, help);
        }
        if !told.free && !told.stand && !told.keep_offset {
            into_solid(checker, who, to, (place, &field));
        }
    }
}

/// Where a teleport leads.
struct Way {
    /// The number of the destination in the action.
    number: usize,
    /// From which zones.
    from: Vec<EntityId>,
    to: EntityId,
}

/// Where a teleport leads from each of these zones.
fn ways(scene: &Scene, told: &Teleport, zones: &[EntityId]) -> Vec<Way> {
    let mut all: Vec<Way> = Vec::new();
    for (number, name) in told.to.iter().enumerate() {
        let nowhere = zones.is_empty().then_some(None);
        for zone in zones.iter().copied().map(Some).chain(nowhere) {
            let Some(to) = meant_with(scene, name, zone) else { continue };
            match all.iter_mut().find(|way| way.number == number && way.to == to) {
                Some(way) => way.from.extend(zone),
                None => all.push(Way { number, from: zone.into_iter().collect(), to }),
            }
        }
    }
    all
}

/// Another teleport's zone in which one would arrive, unless the two lead to each other.
fn sends_on(
    scene: &Scene,
    from: &[EntityId],
    who: EntityId,
    meets: &dyn Fn(EntityId) -> bool,
) -> Option<EntityId> {
    for other in scene.reactions() {
        let told = other.actions().find_map(|(.., action)| match action {
            Action::Teleport(told) if told.what == "who" => Some(told),
            _ => None,
        });
        let Some(told) = told else { continue };
        for (zone, detector) in regions(scene, other) {
            let arrives = detector == Detector::Zone && !from.contains(&zone) && meets(zone);
            if !arrives || !scene.admits(zone, who) {
                continue;
            }
            let back = ways(scene, told, &[zone]).into_iter().any(|way| {
                let pose = scene.pose(way.to);
                from.iter().any(|zone| {
                    scene.would_meet((*zone, Detector::Zone, &scene.pose(*zone)), (who, &pose))
                })
            });
            if !back {
                return Some(zone);
            }
        }
    }
    None
}

/// A destination within something solid.
fn into_solid(
    checker: &mut Checker<'_>,
    who: EntityId,
    to: EntityId,
    (action, field): (&Field, &Field),
) {
    let scene = checker.scene;
    let pose = scene.pose(to);
    // A little above, so that what it stands on does not count.
    let pose = Pose { position: pose.position + DVec3::Y * DEEP, ..pose };
    let Some(bounds) = scene.body_bounds(who, &pose) else { return };
    let size = bounds.max - bounds.min - DVec3::splat(2.0 * DEEP);
    if size.min_element() <= 0.0 {
        return;
    }
    let middle = Pose::at((bounds.min + bounds.max) / 2.0);
    let own = |solid: EntityId| scene.bearer(solid) != Some(who);
    let filter = Filter::solids().only(&own);
    let inner = Shape::Box { size: size.to_array() };
    let found = checker.play().space().overlap(&inner, middle, &filter);
    let Some(solid) = found.ok().and_then(|found| found.first().copied()) else { return };
    let (name, solid) = (scene.name(to), scene.name(solid.entity));
    let message = format!("at `{name}` whoever arrives is inside `{solid}`");
    let help = "move it out, or let it look for room: free = true";
    checker.warn(field, Code::TeleportsIntoSolid, message, help);
    checker.cure(|file| Some(vec![file.set(action, "free", &true.into())?]));
}

/// A ray that begins inside something it meets.
fn starts_inside(checker: &mut Checker<'_>, id: EntityId) {
    let scene = checker.scene;
    // One that may hit its own body is another finding.
    let begins = scene.probe_of(id).filter(|probe| probe.among.solids && !probe.own);
    let Some(probe) = begins else { return };
    let from = scene.pose(id).point(DVec3::from(probe.from));
    let whole = scene.bearer(id).unwrap_or(id);
    let own = |solid: EntityId| !scene.lineage(solid).any(|up| up == whole || up == id);
    let layers = scene.layers(probe.layers.iter().map(String::as_str)).ok();
    let filter = Filter::solids().only(&own);
    let filter = match layers.filter(|_| !probe.layers.is_empty()) {
        Some(layers) => filter.layers(layers),
        None => filter,
    };
    let point = Shape::Sphere { radius: 0.001 };
    let found = checker.play().space().overlap(&point, Pose::at(from), &filter);
    let Some(solid) = found.ok().and_then(|found| found.first().copied()) else { return };
    let (name, solid) = (scene.name(id), scene.name(solid.entity));
    let message = format!("the ray of `{name}` begins inside `{solid}`, and hits it first");
    let help = "begin it farther out: from = [x, y, z], or leave that out with `layers`";
    let field = checker.place(id, "probe");
    checker.warn(&field, Code::StartsInside, message, help);
}

/// A prompt that no player can come near enough to, wherever they stand.
fn out_of_reach(checker: &mut Checker<'_>, id: EntityId) {
    let scene = checker.scene;
    let Some(prompt) = scene.prompt_of(id) else { return };
    let players: Vec<EntityId> =
        scene.described().filter(|id| scene.is_player(*id) && scene.has_body(*id)).collect();
    // What moves may come near; whoever does not walk may fly.
    let moves = scene.lineage(id).any(|up| scene.has_body(up) || is_moved(scene, up));
    if moves || players.is_empty() || !players.iter().all(|id| scene.walking_speed(*id).is_some()) {
        return;
    }
    let place = scene.pose(id).position;
    let bounds = scene.solid_bounds(id, &scene.pose(id));
    let size = bounds.map_or(0.0, |bounds| (bounds.max - bounds.min).length() / 2.0);
    let reach = prompt.reach + size;
    // Whatever carries players about may take them up there.
    let carries = |solid: EntityId| {
        let near = scene.solid_bounds(solid, &scene.pose(solid));
        near.is_some_and(|near| {
            let aside = place.clamp(near.min, near.max) - place;
            DVec3 { y: 0.0, ..aside }.length() < reach + 1.0
        })
    };
    if scene.described().any(|solid| is_moved(scene, solid) && carries(solid)) {
        return;
    }
    let tallest = players.iter().filter_map(|id| {
        let pose = Pose::IDENTITY;
        let bounds = scene.body_bounds(*id, &pose)?;
        let jump = scene.jump_height(*id).unwrap_or(0.0);
        Some((bounds.max.y + jump, bounds.max.x.max(bounds.max.z)))
    });
    let (tall, wide) = tallest.fold((0.0, 0.0), |(tall, wide), (own, aside)| {
        (f64::max(tall, own), f64::max(wide, aside))
    });
    let mut nearest = f64::INFINITY;
    for step in 0..25 {
        let (ring, way) = (f64::from(step / 8) / 2.0, f64::from(step % 8) / 8.0);
        let turn = hazuro::glam::DVec2::from_angle(way * std::f64::consts::TAU);
        let aside = (reach + wide) * ring;
        let above = place + DVec3::new(turn.x * aside, reach + tall + 1.0, turn.y * aside);
        for ground in grounds(checker, above) {
            let up = (place.y - ground - tall).max(ground - place.y).max(0.0);
            nearest = nearest.min((aside - wide).max(0.0).hypot(up));
        }
    }
    if nearest > reach && nearest.is_finite() {
        let (name, reach) = (scene.name(id), prompt.reach);
        let message = format!(
            "no player can reach `{name}`: from wherever they can stand it is {nearest:.2} m away, \
             and its reach is {reach} m"
        );
        let help = "raise its `reach`, or bring it nearer to where players stand";
        let key = if prompt.quiet { "interact" } else { "prompt" };
        let field = checker.place(id, key);
        checker.warn(&field, Code::OutOfReach, message, help);
    }
}

/// The heights at which one can stand below a point.
fn grounds(checker: &Checker<'_>, above: DVec3) -> Vec<f64> {
    let mut heights: Vec<f64> = checker.scene.floor_height().into_iter().collect();
    if let Ok(ray) = Ray::new(above, DVec3::NEG_Y, 1e6) {
        let hits = checker.play().space().ray_all(&ray, &Filter::solids());
        heights.extend(hits.iter().filter(|hit| hit.normal.y > 0.3).map(|hit| hit.point.y));
    }
    heights
}

/// Whether something moves an entity.
fn is_moved(scene: &Scene, id: EntityId) -> bool {
    scene.route_of(id).is_some()
        || scene.reactions().iter().flat_map(Reaction::actions).any(|(.., action)| match action {
            Action::Move(told) => names(scene, &told.what, id),
            Action::Lead(told) => names(scene, &told.what, id),
            Action::Attach { what, .. } => names(scene, what, id),
            _ => false,
        })
}

/// Something before a camera to catch every click, that does not cover the whole view.
fn smaller_than_view(checker: &mut Checker<'_>, id: EntityId) {
    let scene = checker.scene;
    let Some(form) = scene.zone_form(id) else { return };
    let Some(eye) = scene.lineage(id).find(|up| *up != id && scene.lens_of(*up).is_some()) else {
        return;
    };
    let Some(camera) = scene.lens_of(eye) else { return };
    let (at, own) = (scene.pose(eye), scene.pose(id));
    let [width, height] = camera.viewport;
    let covers = |x: f64, y: f64| {
        let (from, way) = match camera.lens {
            Lens::Perspective { angle } => {
                let half = (angle / 2.0).tan();
                (DVec3::ZERO, DVec3::new(x * half * width / height, y * half, -1.0))
            }
            Lens::Orthographic { height: tall } => {
                let half = tall / 2.0;
                (DVec3::new(x * half * width / height, y * half, 0.0), DVec3::NEG_Z)
            }
        };
        let Ok(ray) = Ray::new(at.point(from), at.rotation * way, 1e6) else { return false };
        form.pieces().any(|(offset, piece)| cast(&ray, piece, &(own * offset)).is_some())
    };
    // What is not even before the middle is no catcher.
    let corners = [(-1.0, -1.0), (1.0, -1.0), (-1.0, 1.0), (1.0, 1.0)];
    if covers(0.0, 0.0) && !corners.iter().all(|(x, y)| covers(*x * 0.999, *y * 0.999)) {
        let (name, eye) = (scene.name(id), scene.name(eye));
        let message = format!("`{name}` does not cover the whole view of `{eye}`");
        let help = "make its zone larger, or bring it nearer to the camera";
        let field = checker.place(id, "zone");
        checker.hint(&field, Code::SmallerThanView, message, help);
    }
}
