//! The ways in which a subject comes to a detector: each is a tape.

use hazuro::glam::DVec3;
use hazuro::scene::{Action, Detector, EventKind, Scope, Switch, Trigger};
use hazuro::{EntityId, Play, Scene};
use hazuro_script::Scripts;

use super::presses::{beside, pointing};
use super::spots::{SIDES, bounds, ground, place, size};
use super::visit::{Manner, Visit, event, line};
use crate::check::can_be_switched_on;

/// How far outside a shape a visit begins and ends, in metres.
const OUTSIDE: f64 = 0.4;
/// How long one goes on foot, in seconds.
const WALKING: f64 = 4.0;

/// Whether such a detector can be visited at all.
pub(super) fn can_try(detector: Detector) -> bool {
    matches!(
        detector,
        Detector::Zone
            | Detector::Touch
            | Detector::Probe
            | Detector::Sight
            | Detector::Seeker
            | Detector::Prompt
            | Detector::Pointer
    )
}

/// Whether somebody could be detected by such a detector, whatever its rule.
pub(super) fn suits(scene: &Scene, (on, detector): (EntityId, Detector), who: EntityId) -> bool {
    if on == who {
        return false;
    }
    let Scope { among, players, .. } = scene.scope_of(on, detector).unwrap_or_default();
    let comes = among.bodies && scene.has_body(who);
    let points = !among.bodies && scene.camera_of(who).is_some();
    if players { scene.is_player(who) && (comes || points) } else { comes }
}

/// All ways in which a subject comes to a detector, the plainest first.
pub(super) fn of(
    scene: &std::sync::Arc<Scene>,
    scripts: &Scripts,
    (on, detector): (EntityId, Detector),
    who: EntityId,
) -> Vec<Visit> {
    let prelude = prelude(scene, scripts, on);
    let visits = match detector {
        Detector::Zone | Detector::Touch => through(scene, (on, detector), who),
        Detector::Probe => across(scene, on, who),
        Detector::Sight | Detector::Seeker => before(scene, (on, detector), who),
        Detector::Prompt => beside(scene, on, who),
        Detector::Pointer => pointing(scene, on, who),
        _ => Vec::new(),
    };
    let begin = |mut visit: Visit| {
        visit.tape.splice(0..0, prelude.iter().cloned());
        visit
    };
    visits.into_iter().map(begin).collect()
}

/// What must be done first for a detector to be on. What nothing in the scene ever switches on
/// stays off.
fn prelude(scene: &Scene, scripts: &Scripts, on: EntityId) -> Vec<String> {
    let off = scene.lineage(on).filter(|up| !scene.starts_enabled(*up));
    let off = off.filter(|up| can_be_switched_on(scene, scripts, *up));
    off.map(|off| match cue_for(scene, off) {
        Some(cue) => format!("{{ at = 0, cue = {cue:?} }}"),
        None => format!("{{ at = 0, enable = {:?} }}", scene.name(off)),
    })
    .collect()
}

/// A cue that switches something on.
fn cue_for(scene: &Scene, off: EntityId) -> Option<String> {
    scene.reactions().iter().find_map(|reaction| {
        let switches = reaction.actions().any(|(.., action)| match action {
            Action::Switch { what, switch: Switch::Enabled, to: Some(true) | None } => {
                scene.select(&what.as_str().into()).is_ok_and(|all| all.contains(&off))
            }
            _ => false,
        });
        reaction.triggers().iter().find_map(|trigger| match trigger {
            Trigger::Cue(name) if switches => Some(name.clone()),
            _ => None,
        })
    })
}

/// Through a zone, or past what can be touched.
fn through(
    scene: &std::sync::Arc<Scene>,
    (on, detector): (EntityId, Detector),
    who: EntityId,
) -> Vec<Visit> {
    let shape = bounds(scene, (on, detector));
    let (middle, half) = size(scene, who);
    let (centre, reach) = ((shape.min + shape.max) / 2.0, (shape.max - shape.min) / 2.0 + half);
    let visit = |how: &str, manner, tape: Vec<String>, seconds, times| Visit {
        on,
        detector,
        who,
        how: how.into(),
        manner,
        tape,
        seconds,
        times,
        event: event(scene, (on, detector)),
    };
    let at = |from: DVec3| place(centre + from - middle);
    let inside = at(DVec3::ZERO);
    let put = |time: f64, to: &str| line(scene, time, who, &format!("place_at = {to}"));
    let drive = |time: f64, to: &str, over: f64| {
        line(scene, time, who, &format!("drive_to = {to}, over = {over}"))
    };
    let out = |side: DVec3| side * (reach.dot(side.abs()) + OUTSIDE);
    let mut visits = Vec::new();
    let form = scene.region_form(on, detector);
    if form.is_some_and(hazuro::geometry::Form::is_endless) {
        // There is no other side; one can only be put in and out.
        let above = at(out(DVec3::Y));
        let deep = vec![put(0.0, &above), put(0.1, &at(out(DVec3::NEG_Y))), put(0.4, &above)];
        visits.push(visit("put in from above, and out again", Manner::Side, deep, 0.45, 1));
        return visits;
    }
    // What stands on nothing falls: from above and below only what does not.
    let falls = scene.walking_speed(who).is_some() || scene.carry_of(who).is_some();
    let vertical = [("below", DVec3::NEG_Y), ("above", DVec3::Y)];
    let sides = SIDES.into_iter().chain(vertical.into_iter().filter(|_| !falls));
    for (side, way) in sides {
        let (from, to) = (at(out(way)), at(-out(way)));
        let how = format!("in from {side} and out on the other side");
        visits.push(visit(
            &how,
            Manner::Side,
            vec![put(0.0, &from), drive(0.0, &to, 2.0)],
            2.05,
            1,
        ));
    }
    let (west, east) = (at(out(DVec3::NEG_X)), at(out(DVec3::X)));
    let fast = vec![put(0.0, &west), drive(0.1, &east, 0.02)];
    visits.push(visit("right through within a fiftieth of a second", Manner::Other, fast, 0.2, 1));
    let jump = vec![put(0.0, &west), put(0.3, &inside), put(0.6, &west)];
    visits.push(visit("put inside at once, and out again", Manner::Other, jump, 0.8, 1));
    let begins = vec![put(0.0, &inside), put(0.4, &west)];
    visits.push(visit("there from the very start, then out", Manner::Other, begins, 0.6, 1));
    let name = scene.name(on);
    let switch = |time: f64, word: &str| format!("{{ at = {time}, {word} = {name:?} }}");
    let off = vec![
        put(0.0, &west),
        put(0.2, &inside),
        switch(0.4, "disable"),
        put(0.6, &west),
        switch(0.8, "enable"),
    ];
    visits.push(visit("in, and out while it is off", Manner::Other, off, 1.0, 1));
    if scene.body_of(who).is_some_and(|body| body.parts().len() > 1) {
        let slow = vec![put(0.0, &west), drive(0.0, &east, 8.0)];
        visits.push(visit("slowly, part by part", Manner::Side, slow, 8.05, 1));
    }
    let twice = vec![put(0.0, &west), drive(0.0, &east, 1.0), drive(1.2, &west, 1.0)];
    visits.push(visit("through, and back again", Manner::Twice, twice, 2.25, 2));
    if scene.walking_speed(who).is_some() {
        let play = Play::new(scene.clone());
        let mut sides = SIDES;
        // From the nearer side first: that is where it will come from.
        let begins = scene.pose(who).position;
        sides.sort_by(|(_, one), (_, other)| {
            let far = |way: DVec3| (centre + out(way)).distance(begins);
            far(*one).total_cmp(&far(*other))
        });
        for (index, (side, way)) in sides.into_iter().enumerate() {
            let start = centre + out(way) + way * 0.8;
            let Some(start) = ground(&play, start, shape.max.y + 0.5) else { continue };
            let goal = DVec3 { y: start.y, ..centre };
            let mut tape = vec![put(0.0, &place(start))];
            tape.push(line(scene, 0.1, who, &format!("walk_to = {}", place(goal))));
            let seconds = WALKING.max((goal - start).length() / 2.0);
            let how = format!("on foot from {side}");
            visits.push(visit(&how, Manner::OnFoot, tape.clone(), seconds, 1));
            if scene.jump_height(who) > Some(0.0) && index == 0 {
                tape.push(line(scene, 0.4, who, "jump = true"));
                let how = format!("at a jump from {side}");
                visits.push(visit(&how, Manner::Other, tape, seconds, 1));
            }
        }
    }
    visits
}

/// Across the ray of a probe, one third and two thirds along.
fn across(scene: &std::sync::Arc<Scene>, on: EntityId, who: EntityId) -> Vec<Visit> {
    let Some(probe) = scene.probe_of(on) else { return Vec::new() };
    let pose = scene.pose(on);
    let (from, to) = (pose.point(probe.from.into()), pose.point(probe.to.into()));
    let (middle, half) = size(scene, who);
    let along = (to - from).normalize_or_zero();
    let aside = along.any_orthonormal_vector();
    let aside = if along.y.abs() < 0.9 { along.cross(DVec3::Y).normalize_or(aside) } else { aside };
    let far = half.length() + 0.5;
    let mut visits = Vec::new();
    for (share, side, way) in [(0.4, "right", aside), (0.4, "left", -aside), (0.8, "right", aside)]
    {
        let crossing = from + (to - from) * share - middle;
        let (start, end) = (place(crossing + way * far), place(crossing - way * far));
        let tape = vec![
            line(scene, 0.0, who, &format!("place_at = {start}")),
            line(scene, 0.0, who, &format!("drive_to = {end}, over = 2")),
        ];
        visits.push(Visit {
            on,
            detector: Detector::Probe,
            who,
            how: format!("across the ray from the {side}, at {:.0} % of it", share * 100.0),
            manner: Manner::Side,
            tape,
            seconds: 2.1,
            times: 1,
            event: EventKind::Hit,
        });
    }
    visits
}

/// Before a watcher or a seeker, near and farther off, and away again.
fn before(
    scene: &std::sync::Arc<Scene>,
    (on, detector): (EntityId, Detector),
    who: EntityId,
) -> Vec<Visit> {
    let sight = scene.sight_of(on).filter(|_| detector == Detector::Sight);
    let seeker = scene.seeker_of(on).filter(|_| detector == Detector::Seeker);
    let range = sight.map(|it| it.range).or(seeker.map(|it| it.range)).unwrap_or(1.0);
    let notice = sight.map_or(0.0, |it| it.notice) + sight.map_or(0.3, |it| it.every);
    let (pose, (middle, half)) = (scene.pose(on), size(scene, who));
    let mut visits = Vec::new();
    for (share, manner) in [(0.3, Manner::Side), (0.6, Manner::Other), (0.9, Manner::Other)] {
        let far = (range * share).max(half.length() + 0.3);
        let there = place(pose.point(DVec3::NEG_Z * far) - middle);
        let away = place(pose.point(DVec3::NEG_Z * range * 3.0) - middle);
        // Held in the air, as if driven there slowly.
        let stay = notice + 0.8;
        let tape = vec![
            line(scene, 0.0, who, &format!("place_at = {away}")),
            line(scene, 0.3, who, &format!("place_at = {there}")),
            line(scene, 0.3, who, &format!("drive_to = {there}, over = {stay}")),
            line(scene, 0.3 + stay, who, &format!("place_at = {away}")),
        ];
        visits.push(Visit {
            on,
            detector,
            who,
            how: format!("{far:.1} m ahead of it, for {stay:.1} s"),
            manner,
            tape,
            seconds: stay + 0.5,
            times: 1,
            event: event(scene, (on, detector)),
        });
    }
    visits
}
