//! Outlines against points of the shapes, films against plays, timelines against events.

use crate::support;

use std::collections::BTreeMap;

use hazuro::geometry::{Form, Pose, Shape};
use hazuro::glam::{DQuat, DVec3};
use hazuro::scene::Facts;
use hazuro::{Entry, Time};
use hazuro_view::{DARK, LIGHT, Mark, Recording, Timeline, View, Window, outlines};
use proptest::prelude::*;
use support::demo;

fn shapes() -> impl Strategy<Value = Shape> {
    let length = || 0.1..4.0_f64;
    prop_oneof![
        [length(), length(), length()].prop_map(|size| Shape::Box { size }),
        length().prop_map(|radius| Shape::Sphere { radius }),
        (length(), length())
            .prop_map(|(radius, more)| Shape::Capsule { radius, height: 2.0 * radius + more }),
        (length(), length()).prop_map(|(radius, height)| Shape::Cylinder { radius, height }),
        (length(), length()).prop_map(|(radius, height)| Shape::Cone { radius, height }),
    ]
}

/// How far a point is outside a convex outline that goes round counter-clockwise.
fn outside(points: &[[f64; 2]], [x, y]: [f64; 2]) -> f64 {
    let edge = |index: usize| {
        let (a, b) = (points[index], points[(index + 1) % points.len()]);
        let (dx, dy) = (b[0] - a[0], b[1] - a[1]);
        ((x - a[0]) * dy - (y - a[1]) * dx) / dx.hypot(dy)
    };
    (0..points.len()).map(edge).fold(f64::NEG_INFINITY, f64::max)
}

proptest! {
    /// What is inside a shape is inside its outline in each view, to the half per cent by which
    /// round shapes are cut short; and each corner of the outline is a point of the shape.
    #[test]
    fn outlines_hold_their_shapes(
        shape in shapes(),
        at in [-9.0..9.0, -9.0..9.0, -9.0..9.0_f64],
        turns in [-3.0..3.0, -3.0..3.0, -3.0..3.0_f64],
        points in prop::collection::vec([-1.0..1.0, -1.0..1.0, -1.0..1.0_f64], 40),
    ) {
        let form = Form::new(&shape).unwrap();
        let rotation = DQuat::from_euler(hazuro::glam::EulerRot::XYZ, turns[0], turns[1], turns[2]);
        let pose = Pose { position: at.into(), rotation };
        let reach = form.reach();
        for view in View::ALL {
            let outline = &outlines(&form, &pose, view, &Window::EMPTY)[0];
            for point in &points {
                let point = pose.position + DVec3::from_array(*point) * reach;
                if form.distance_to_point(&pose, point) == 0.0 {
                    let strays = outside(&outline.points, view.flat(point));
                    prop_assert!(strays <= 0.006 * reach, "{view}: {strays} of {reach}");
                }
            }
            let bounds = Window::of(view, &form.bounds(&pose)).grown(1e-6);
            prop_assert!(outline.points.iter().all(|corner| bounds.holds(*corner)));
            // The longest extent is met nearly, so the outline is no smaller than the shape.
            let (wide, real) = (outline.window().size(), bounds.size());
            for axis in 0..2 {
                prop_assert!(wide[axis] >= real[axis] - 0.012 * reach, "{view}: {wide:?} {real:?}");
            }
        }
    }
}

#[test]
fn corners_are_exact_and_endless_things_are_cut_off() {
    let form = Form::new(&Shape::HalfSpace).unwrap();
    let window = Window::around([0.0, 0.0], [4.0, 4.0]);
    let at = Pose::at([0.0, 1.0, 0.0].into());
    let below = outlines(&form, &at, View::Front, &window);
    assert_eq!(below[0].window(), Window { min: [-2.0, -2.0], max: [2.0, 1.0] });
    assert!(outlines(&form, &at, View::Top, &window).is_empty());
}

#[test]
fn films_are_true_to_the_play() {
    for name in ["mill", "granary"] {
        let loaded = demo(&format!("{name}.playtest.toml"));
        let playtest = loaded.playtest.as_ref().unwrap();
        let recording = Recording::of(&mut playtest.play(), Time::from_secs(30.0));
        assert!(recording.tracks.len() > 2);
        let mut play = playtest.play();
        let mut strays = BTreeMap::new();
        for step in 1..900 {
            let time = Time::from_secs(f64::from(step) / 30.0);
            play.advance(time);
            for id in recording.tracks.keys() {
                let facts = play.facts();
                if !facts.is_enabled(*id) && !facts.is_visible(*id) {
                    continue;
                }
                let (real, shown) =
                    (play.pose(*id).unwrap().position, recording.at(*id, time).unwrap());
                // What jumps is shown to jump at the next look, at most a twentieth of a second
                // later: it is never elsewhere for longer.
                let off = real.distance(shown.place);
                let late: &mut u32 = strays.entry(*id).or_default();
                *late = if off > 0.12 { *late + 1 } else { 0 };
                assert!(*late < 3, "{name}: {} at {time}: {off}", play.scene().name(*id));
            }
        }
        let all = recording.tracks.values().map(Vec::len).sum::<usize>();
        assert!(all < 3000, "{all} places are kept");
    }
}

#[test]
fn ways_begin_anew_where_somebody_is_put_elsewhere() {
    let loaded = demo("granary.playtest.toml");
    let recording =
        Recording::of(&mut loaded.playtest.as_ref().unwrap().play(), Time::from_secs(20.0));
    let all = (Time::ZERO, Time::from_secs(20.0));
    // Through both hatches.
    let miller = recording.ways(loaded.scene.find("miller").unwrap(), all);
    assert!(miller.len() >= 3, "{miller:?}");
    // What drifts is nowhere before it has come, so no way leads there.
    let drift = recording.ways(loaded.scene.find("drift#3").unwrap(), all);
    let creek = |place: &DVec3| place.z < -2.0 && place.z > -4.5;
    assert!(!drift.is_empty() && drift.iter().flatten().all(creek), "{drift:?}");
    let early =
        recording.ways(loaded.scene.find("miller").unwrap(), (Time::ZERO, Time::from_secs(0.2)));
    assert!(early.iter().flatten().count() <= 4);
}

#[test]
fn timelines_tell_who_was_inside_from_when_to_when() {
    for name in ["gate", "yard", "mill", "granary"] {
        let loaded = demo(&format!("{name}.playtest.toml"));
        let playtest = loaded.playtest.as_ref().unwrap();
        let recording = Recording::of(&mut playtest.play(), playtest.length());
        let timeline = Timeline::of(&loaded.scene, &recording);
        let scene = &loaded.scene;
        for event in recording.entries.iter().filter_map(Entry::event) {
            let (Some(on), Some(who), Some(detector)) =
                (event.on, event.who, event.kind.detector())
            else {
                continue;
            };
            let row = timeline
                .rows
                .iter()
                .find(|row| row.name == scene.name(on) && row.sort == detector.word())
                .unwrap();
            let spans = || row.spans.iter().filter(|span| span.who == scene.name(who));
            if event.kind.is_opening() {
                assert!(spans().any(|span| span.from == event.time), "{event:?}");
            } else if event.kind.is_closing() {
                assert!(spans().any(|span| span.until == Some(event.time)), "{event:?}");
            }
        }
        for row in &timeline.rows {
            for (index, one) in row.spans.iter().enumerate() {
                for other in &row.spans[index + 1..] {
                    let apart = one.until.is_some_and(|until| until <= other.from)
                        || other.until.is_some_and(|until| until <= one.from);
                    let under = [one, other].iter().any(|span| span.mark == Mark::Cooldown);
                    assert!(apart || under || one.lane != other.lane, "{row:?}");
                }
            }
        }
    }
}

#[test]
fn effects_and_cooldowns_last_as_long_as_they_do() {
    let loaded = demo("mill.playtest.toml");
    let recording =
        Recording::of(&mut loaded.playtest.as_ref().unwrap().play(), Time::from_secs(60.0));
    let timeline = Timeline::of(&loaded.scene, &recording);
    let row = |name: &str, sort: &str| {
        timeline.rows.iter().find(|row| (row.name.as_str(), row.sort) == (name, sort)).unwrap()
    };
    // Broth at 4.27 s, refreshed at 6.51 s, lasts eight seconds from there; seen each 0.05 s.
    let broth = &row("miller", "effects").spans[0];
    assert!((broth.from.secs() - 4.27).abs() < 0.06, "{broth:?}");
    assert!((broth.until.unwrap().secs() - 14.51).abs() < 0.06, "{broth:?}");
    let cooldown = |span: &&hazuro_view::Span| span.mark == Mark::Cooldown;
    let bell = row("tide_bell", "pointer").spans.iter().filter(cooldown);
    let lengths: Vec<f64> = bell.map(|span| (span.until.unwrap() - span.from).secs()).collect();
    assert!(!lengths.is_empty() && lengths.iter().all(|length| (length - 3.0).abs() < 1e-9));
}

#[test]
fn texts_and_marks_can_be_read_on_light_and_dark() {
    for palette in [LIGHT, DARK] {
        for text in [palette.ink, palette.faint, palette.alarm, palette.busy] {
            assert!(text.contrast(palette.paper) >= 4.5, "{text:?} on {:?}", palette.paper);
        }
        for mark in Mark::ALL {
            let contrast = palette.of(mark).contrast(palette.paper);
            assert!(contrast >= 3.0, "{mark:?}: {contrast:.2}");
        }
    }
    // None is told from another by colour alone.
    for (index, one) in Mark::ALL.iter().enumerate() {
        for other in &Mark::ALL[index + 1..] {
            assert_ne!(one.code(), other.code());
            let both = [*one, *other];
            let way_gone = both.contains(&Mark::Path);
            assert!(way_gone || one.sign() != other.sign(), "{one:?} {other:?}");
        }
    }
}
