//! Views, windows and figures: small things that everything else rests on.

use crate::support;

use hazuro::glam::DVec3;
use hazuro::scene::Facts;
use hazuro::{Play, Time};
use hazuro_view::{Drawn, Figure, Firings, Mark, View, Window, figures};
use proptest::prelude::*;
use support::{YARD, demo, scene};

proptest! {
    /// Each view leaves out one axis, and the nearness is along that.
    #[test]
    fn a_view_and_its_depth_tell_a_place(place in [-90.0..90.0, -90.0..90.0, -90.0..90.0_f64]) {
        let place = DVec3::from_array(place);
        for view in View::ALL {
            let [right, up] = view.flat(place);
            let near = view.nearness(place);
            let squares = right * right + up * up + near * near;
            prop_assert!((squares - place.length_squared()).abs() < 1e-9);
        }
        prop_assert_eq!(View::Top.next().next().next(), View::Top);
    }

    /// A window holds what it was made of, meets what it shares a point with, and grows on all sides.
    #[test]
    fn windows_hold_meet_and_grow(
        points in prop::collection::vec([-90.0..90.0, -90.0..90.0_f64], 1..9),
        others in prop::collection::vec([-90.0..90.0, -90.0..90.0_f64], 1..9),
        by in 0.01..9.0,
    ) {
        let of = |all: &[[f64; 2]]| all.iter().fold(Window::EMPTY, |window, it| window.and(*it));
        let (one, other) = (of(&points), of(&others));
        prop_assert!(points.iter().all(|point| one.holds(*point)));
        prop_assert_eq!(one.meets(&other), other.meets(&one));
        if others.iter().any(|point| one.holds(*point)) {
            prop_assert!(one.meets(&other));
        }
        let both = one.join(other);
        prop_assert!(points.iter().chain(&others).all(|point| both.holds(*point)));
        prop_assert_eq!(one.join(Window::EMPTY), one);
        let grown = one.grown(by).size();
        prop_assert!((grown[0] - one.size()[0] - 2.0 * by).abs() < 1e-9);
    }
}

fn of<'a>(all: &'a [Figure<'a>], play: &Play, name: &str) -> Vec<&'a Figure<'a>> {
    let id = play.scene().find(name).unwrap();
    all.iter().filter(|figure| figure.entity == id).collect()
}

#[test]
fn what_is_not_in_the_play_is_not_drawn() {
    let loaded = demo("mill.playtest.toml");
    let mut play = loaded.playtest.as_ref().unwrap().play();
    let firings = Firings::default();
    play.advance(Time::from_secs(0.1));
    let before = figures(&play, &firings);
    assert!(!of(&before, &play, "token_1").is_empty());
    assert!(of(&before, &play, "reed#1").is_empty(), "it waits in stock");
    play.advance(Time::from_secs(40.0));
    let after = figures(&play, &firings);
    assert!(of(&after, &play, "token_1").is_empty(), "it has been collected");
    assert!(!of(&after, &play, "reed#1").is_empty());
    // Hidden things are drawn, and say so: they still detect.
    let net = of(&after, &play, "net");
    assert_eq!(net[0].label.as_deref(), Some("net (hidden)"));
    assert!(!play.facts().is_visible(net[0].entity));
}

#[test]
fn each_detector_is_drawn_by_what_it_does() {
    let loaded = demo("yard.playtest.toml");
    let mut play = loaded.playtest.as_ref().unwrap().play();
    let firings = Firings::default();
    play.advance(Time::from_secs(3.5));
    let all = figures(&play, &firings);
    let marks = |name: &str| of(&all, &play, name).iter().map(|it| it.mark).collect::<Vec<_>>();
    assert_eq!(marks("owl"), [Mark::Occupied, Mark::Sight]);
    assert_eq!(marks("weathercock"), [Mark::Occupied, Mark::Target]);
    assert_eq!(marks("path_ray"), [Mark::Idle, Mark::Ray]);
    assert_eq!(marks("tide_bell")[0], Mark::Solid);
    assert!(marks("miller").contains(&Mark::Player) && marks("heron").contains(&Mark::Body));
    assert_eq!(marks("ground"), [Mark::Ground]);
    assert_eq!(marks("left_open"), [Mark::Marker]);
    // The lever is offered: its key and caption stand beside it.
    let lever = of(&all, &play, "lever_low");
    assert!(lever.iter().any(|it| it.label.as_deref() == Some("[E] Pull")), "{lever:?}");
    let eye = of(&all, &play, "miller/eye");
    assert!(eye.is_empty(), "a camera is no place");
}

#[test]
fn rays_end_where_they_hit() {
    let loaded = demo("gate.playtest.toml");
    let mut play = loaded.playtest.as_ref().unwrap().play();
    let firings = Firings::default();
    play.advance(Time::from_secs(1.85));
    let all = figures(&play, &firings);
    let ray = of(&all, &play, "path_ray");
    let marks: Vec<Mark> = ray.iter().map(|it| it.mark).collect();
    assert_eq!(marks, [Mark::Occupied, Mark::Ray, Mark::Hit]);
    let Drawn::Line(way) = &ray[1].drawn else { panic!("{ray:?}") };
    // From the west post to the miller's side, 0.3 m from his middle at most.
    assert!((1.1..1.6).contains(&way[0].distance(way[1])), "{way:?}");
    assert_eq!(ray[2].place(), way[1]);
}

#[test]
fn fired_is_shown_for_half_a_second() {
    let yard = scene(YARD);
    let mut play = Play::new(yard.scene.clone());
    play.place("miller", [0.0, 0.0, -4.0]).unwrap();
    let mut firings = Firings::default();
    firings.note(play.advance(Time::from_secs(0.1)));
    let mark = |play: &Play, firings: &Firings| of(&figures(play, firings), play, "pad")[0].mark;
    assert_eq!(mark(&play, &firings), Mark::Fired);
    play.advance(Time::from_secs(0.49));
    assert_eq!(mark(&play, &firings), Mark::Fired);
    play.advance(Time::from_secs(0.51));
    assert_eq!(mark(&play, &firings), Mark::Occupied);
    // That somebody leaves is no firing.
    play.place("miller", [0.0, 0.0, 4.0]).unwrap();
    firings.note(play.advance(Time::from_secs(0.6)));
    assert_eq!(mark(&play, &firings), Mark::Idle);
    firings.clear();
    let cellar = of(&figures(&play, &firings), &play, "cellar")[0].mark;
    assert_eq!(cellar, Mark::Off);
}
