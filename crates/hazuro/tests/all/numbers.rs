//! Stats, effects and pickups.

use crate::support;

use hazuro::geometry::Shape;
use hazuro::scene::{
    Action, Alter, Change, Effect, Entity, EventKind, Grant, Kind, Pickup, Reaction, SceneBuilder,
    Stacking, Stat, Trigger, WALK, Zone,
};
use hazuro::{Entry, Event, Happening, Input, Play, Refusal, Scene, Time};
use proptest::prelude::*;
use support::{ball, cube, play_until, words, yard};

fn health() -> Stat {
    Stat { start: 100.0, most: 100.0, ..Stat::default() }
}

/// A ball with health, driven through a zone that hurts from x = -1.5 to 1.5.
fn dusty() -> SceneBuilder {
    Scene::builder("Mill")
        .entity(Entity::new("ball").at([-5.0, 0.0, 0.0]).body(ball(0.5)).stat("health", health()))
        .entity(Entity::new("dust").zone(cube(2.0)))
        .effect(Effect::new("dust").alter("health", Alter::rate(-40.0)).while_detected())
        .reaction(Reaction::on(Trigger::enter("dust")).then(Action::effect("dust", "who")))
}

fn stat(play: &Play, who: &str, name: &str) -> f64 {
    use hazuro::scene::Facts;
    let who = play.scene().find(who).unwrap();
    play.facts().stat(who, name).unwrap()
}

fn readings(entries: &[Entry]) -> Vec<(EventKind, f64, f64, f64)> {
    let told = |event: &Event| {
        let reading = event.reading?;
        Some((event.kind, event.time.secs(), reading.was, reading.is))
    };
    entries.iter().filter_map(Entry::event).filter_map(told).collect()
}

#[test]
fn what_hurts_while_inside_hurts_for_exactly_that_time_at_any_rate() {
    for rate in [7, 60, 1000] {
        let mut play = Play::new(dusty().rate(rate).build().unwrap());
        let ball = play.scene().find("ball").unwrap();
        // In from 3.5 to 6.5 m of 10 m in 10 s.
        let until = Time::from_secs(10.0);
        play.schedule(Time::ZERO, Input::Drive { who: ball, to: [5.0, 0.0, 0.0].into(), until })
            .unwrap();
        let entries = play_until(&mut play, 4.5);
        assert_eq!(readings(&entries), [], "nothing is told while it changes steadily");
        assert!((stat(&play, "ball", "health") - 60.0).abs() < 1e-6);
        let told = readings(&play_until(&mut play, 12.0));
        // Empty after 2.5 s, half a second before it would have been out.
        let kinds: Vec<_> = told.iter().map(|(kind, ..)| *kind).collect();
        assert_eq!(kinds, [EventKind::Stat, EventKind::Empty], "at {rate} Hz: {told:?}");
        assert!((told[1].1 - 6.0).abs() < 1e-8, "at {rate} Hz: {told:?}");
        assert_eq!((told[1].2, told[1].3), (100.0, 0.0));
        assert_eq!(stat(&play, "ball", "health"), 0.0);
    }
}

#[test]
fn what_ends_in_time_leaves_what_it_has_done() {
    let scene =
        dusty().reaction(Reaction::on(Trigger::exit("dust")).then(Action::heal("who", 5.0)));
    let mut play = Play::new(scene.build().unwrap());
    let ball = play.scene().find("ball").unwrap();
    let until = Time::from_secs(5.0);
    play.schedule(Time::ZERO, Input::Drive { who: ball, to: [5.0, 0.0, 0.0].into(), until })
        .unwrap();
    let told = readings(&play_until(&mut play, 6.0));
    // Inside for 1.5 s, then healed.
    let values: Vec<f64> = told.iter().map(|(_, _, _, is)| (is * 1e6).round() / 1e6).collect();
    assert_eq!(values, [40.0, 45.0]);
    assert!((told[0].1 - 3.25).abs() < 1e-9);
}

#[test]
fn stacking_is_as_described() {
    // The effect is put on at 0 and at 1 s, and lasts 2 s; the stat is looked at each half second.
    let played = |again: Stacking| {
        let scene = Scene::builder("Mill")
            .entity(Entity::new("miller").stat("strength", Stat { start: 1.0, ..Stat::default() }))
            .effect(Effect::new("e").alter("strength", Alter::add(1.0)).seconds(2.0).again(again))
            .build()
            .unwrap();
        let mut play = Play::new(scene);
        play.act(Action::effect("e", "miller")).unwrap();
        let mut seen = Vec::new();
        for half in 1..=9 {
            if half == 3 {
                play.act(Action::effect("e", "miller")).unwrap();
            }
            play_until(&mut play, f64::from(half) * 0.5 - 0.25);
            seen.push(stat(&play, "miller", "strength") as i32);
        }
        seen
    };
    assert_eq!(played(Stacking::Refresh), [2, 2, 2, 2, 2, 2, 1, 1, 1]);
    assert_eq!(played(Stacking::Extend), [2, 2, 2, 2, 2, 2, 2, 2, 1]);
    assert_eq!(played(Stacking::Add), [2, 2, 3, 3, 2, 2, 1, 1, 1]);
    assert_eq!(played(Stacking::Ignore), [2, 2, 2, 2, 1, 1, 1, 1, 1]);
}

#[test]
fn an_effect_on_the_walk_changes_the_walk_under_way() {
    let body = hazuro::scene::Body::new(Shape::Capsule { radius: 0.3, height: 1.8 }).walk(2.0);
    let scene = Scene::builder("Mill")
        .entity(Entity::new("miller").body(body))
        .effect(Effect::new("broth").alter(WALK, Alter::times(2.0)).seconds(1.0))
        .effect(Effect::new("mud").alter(WALK, Alter::times(0.0)).seconds(3.0))
        .build()
        .unwrap();
    let mut play = Play::new(scene);
    let who = play.scene().find("miller").unwrap();
    play.schedule(Time::ZERO, Input::Walk { who, to: [10.0, 0.0, 0.0].into() }).unwrap();
    play_until(&mut play, 1.0);
    play.act(Action::effect("broth", "miller")).unwrap();
    play_until(&mut play, 2.5);
    // A second at 2, one at 4, half a second at 2 again.
    assert!((play.pose("miller").unwrap().position.x - 7.0).abs() < 1e-9);
    play.act(Action::effect("mud", "miller")).unwrap();
    play_until(&mut play, 5.0);
    assert!((play.pose("miller").unwrap().position.x - 7.0).abs() < 1e-9, "stuck");
    play_until(&mut play, 6.5);
    assert!((play.pose("miller").unwrap().position.x - 9.0).abs() < 1e-9, "and on again");
    play_until(&mut play, 9.0);
    assert_eq!(play.pose("miller").unwrap().position.x, 10.0);
}

/// What a plain model is told too.
#[derive(Clone, Copy, Debug)]
enum Deed {
    Put(usize),
    End(usize),
    Add(i32),
    Set(i32),
    Remove,
}

fn deeds() -> impl Strategy<Value = Vec<(u32, Deed)>> {
    let deed = prop_oneof![
        6 => (0..4_usize).prop_map(Deed::Put),
        2 => (0..4_usize).prop_map(Deed::End),
        3 => (-30..30_i32).prop_map(Deed::Add),
        1 => (0..120_i32).prop_map(Deed::Set),
        1 => Just(Deed::Remove),
    ];
    prop::collection::vec((1..8_u32, deed), 1..40)
}

/// The effects of the model: what is added, the factor, how long they last in hundredths of a
/// second (never a whole tenth, when the deeds are done), and how they stack.
const EFFECTS: [(f64, f64, u32, Stacking); 4] = [
    (7.0, 1.0, 133, Stacking::Refresh),
    (0.0, 1.5, 71, Stacking::Extend),
    (-3.0, 0.75, 217, Stacking::Add),
    (2.0, 2.0, 97, Stacking::Ignore),
];

proptest! {
    #![proptest_config(ProptestConfig::with_cases(256))]

    #[test]
    fn overlapping_effects_are_as_in_a_plain_model(deeds in deeds()) {
        let mut scene = Scene::builder("Mill")
            .entity(Entity::new("miller").stat("might", Stat { start: 50.0, most: 1e9, ..Stat::default() }));
        for (index, (add, times, long, again)) in EFFECTS.into_iter().enumerate() {
            let alter = Alter { add, times, rate: 0.0 };
            let effect = Effect::new(format!("e{index}")).alter("might", alter);
            scene = scene.effect(effect.seconds(f64::from(long) / 100.0).again(again));
        }
        let mut play = Play::new(scene.build().unwrap());
        // The model: what is there, and what lasts until when, in hundredths.
        let mut base = 50.0_f64;
        let mut active: Vec<(usize, u32)> = Vec::new();
        let mut now = 0;
        for (pause, deed) in deeds {
            now += 10 * pause;
            play_until(&mut play, f64::from(now) / 100.0);
            active.retain(|(_, until)| *until > now);
            match deed {
                Deed::Put(index) => {
                    play.act(Action::effect(format!("e{index}"), "miller")).unwrap();
                    let (.., long, again) = EFFECTS[index];
                    match active.iter_mut().find(|(had, _)| *had == index) {
                        Some(had) if again == Stacking::Refresh => had.1 = now + long,
                        Some(had) if again == Stacking::Extend => had.1 += long,
                        Some(_) if again == Stacking::Ignore => {}
                        _ => active.push((index, now + long)),
                    }
                }
                Deed::End(index) => {
                    play.act(Action::end_effect(format!("e{index}"), "miller")).unwrap();
                    active.retain(|(had, _)| *had != index);
                }
                Deed::Add(amount) => {
                    let change = Change::Add(f64::from(amount));
                    play.act(Action::stat("miller", "might", change)).unwrap();
                    base = (base + f64::from(amount)).clamp(0.0, 1e9);
                }
                Deed::Set(value) => {
                    let change = Change::Set(f64::from(value));
                    play.act(Action::stat("miller", "might", change)).unwrap();
                    base = f64::from(value);
                }
                Deed::Remove => {
                    play.act(Action::remove("miller")).unwrap();
                    active.clear();
                }
            }
            play_until(&mut play, f64::from(now) / 100.0 + 0.001);
            let sum: f64 = active.iter().map(|(index, _)| EFFECTS[*index].0).sum();
            let factor: f64 = active.iter().map(|(index, _)| EFFECTS[*index].1).product();
            let expected = ((base + sum) * factor).clamp(0.0, 1e9);
            let got = stat(&play, "miller", "might");
            prop_assert!((got - expected).abs() <= expected.abs() * 1e-12, "{} {}", got, expected);
        }
        // All over: what was there is there again, to the last bit.
        play_until(&mut play, f64::from(now) / 100.0 + 120.0);
        prop_assert_eq!(stat(&play, "miller", "might"), base);
    }
}

#[test]
fn a_pickup_is_collected_once_and_comes_back_as_it_was() {
    let grant = Grant::default().count("tokens", 1).own_count("purse", 2).tag("rich");
    let pickup = Pickup { grant, back_after: Some(2.0), limit: None };
    let scene = yard()
        .entity(Entity::new("token").at([0.0, 0.0, 9.0]).zone(cube(2.0)).pickup(pickup))
        .entity(Entity::new("glint").parent("token").visible(false))
        .entity(Entity::new("gate").zone(cube(1.0)).admit(hazuro::scene::Admit::tags(["rich"])))
        .build()
        .unwrap();
    let mut play = Play::new(scene);
    play.step();
    play.place("ball", [0.0, 0.0, 9.0]).unwrap();
    let entries = play_until(&mut play, 1.0);
    let expected = ["enter token ball teleport", "collect token ball", "exit token ball disable"];
    assert_eq!(words(&play, &entries), expected);
    assert_eq!(play.count("tokens"), 1);
    play.place("ball", [0.0, 0.0, 0.0]).unwrap();
    let entries = play_until(&mut play, 3.0);
    let expected = ["enter pad ball teleport", "enter gate ball teleport", "respawn token -"];
    assert_eq!(words(&play, &entries), expected, "whoever has the tag is let in");
    play.act(Action::untag("ball", "rich")).unwrap();
    let entries = play_until(&mut play, 3.5);
    assert_eq!(words(&play, &entries), ["exit gate ball admit"]);
}

#[test]
fn what_would_give_nothing_is_left_lying_until_it_would() {
    let pickup =
        Pickup { grant: Grant::default().stat("health", 30.0), back_after: None, limit: Some(1) };
    let herb = |name: &str| Entity::new(name).zone(cube(2.0)).pickup(pickup.clone());
    let scene = Scene::builder("Mill")
        .kind(Kind::new("person").body(ball(0.3)).stat("health", health()))
        .entity(Entity::new("miller").kind("person").at([0.0, 0.0, 0.0]))
        .entity(Entity::new("dog").body(ball(0.3)).at([0.0, 0.0, 5.0]))
        .entity(herb("herb"))
        .entity(herb("weed").at([0.0, 0.0, 5.0]))
        .build()
        .unwrap();
    let mut play = Play::new(scene);
    let entries = play_until(&mut play, 1.0);
    let refusals = |entries: &[Entry]| -> Vec<Refusal> {
        let why = |entry: &Entry| match &entry.what {
            Happening::Refused { why, .. } => Some(why.clone()),
            _ => None,
        };
        entries.iter().filter_map(why).collect()
    };
    // A dog has no health at all, the miller all of his.
    let nothing = Refusal::GivesNothing("health is 100 already".into());
    let no_health = Refusal::GivesNothing("there is no health".into());
    assert_eq!(refusals(&entries), [nothing, no_health]);
    play.act(Action::hurt("miller", 10.0)).unwrap();
    let entries = play_until(&mut play, 2.0);
    assert!(words(&play, &entries).contains(&"collect herb miller".into()), "{entries:?}");
    assert_eq!(stat(&play, "miller", "health"), 100.0);
}

#[test]
fn unable_actions_are_faults_where_they_can_be_known_and_refused_where_not() {
    let zone = || Zone::new(Shape::Box { size: [1.0; 3] });
    let scene = yard()
        .entity(Entity::new("post"))
        .effect(Effect::new("e").alter("health", Alter::add(1.0)))
        .entity(Entity::new("miller").stat("health", health()))
        .kind(Kind::new("reed").zone(zone()))
        .reaction(
            Reaction::on(Trigger::enter("pad"))
                .then(Action::hurt("post", 1.0))
                .then(Action::solid("pad", false))
                .then(Action::detect("post", false))
                .then(Action::collect("post", "who"))
                .then(Action::spawn("reed", "post"))
                .then(Action::effect("e", "ball"))
                .then(Action::send(EventKind::Enter, "post", "who")),
        );
    let errors = scene.build().unwrap_err();
    let texts: Vec<String> = errors.iter().map(|error| error.fault.to_string()).collect();
    let expected = [
        "`stat` needs the stat `health`, and `post` has none",
        "`solid` needs a solid, and `pad` has none",
        "`detect` needs a detector, and `post` has none",
        "`collect` needs a pickup, and `post` has none",
        "`spawn` needs a kind with a `stock`, and `reed` has none",
        "`effect` needs a stat that the effect changes, and `ball` has none",
        "`send` needs a zone, and `post` has none",
    ];
    assert_eq!(texts, expected);
    let scene = yard()
        .entity(Entity::new("miller").stat("health", health()))
        .reaction(Reaction::on(Trigger::enter("pad")).then(Action::hurt("who", 1.0)));
    let mut play = Play::new(scene.build().unwrap());
    play.place("ball", [0.0; 3]).unwrap();
    let entries = play_until(&mut play, 1.0);
    let refused = entries.iter().find_map(|entry| match &entry.what {
        Happening::Refused { why, .. } => Some(why.words(play.scene())),
        _ => None,
    });
    assert_eq!(refused.as_deref(), Some("it has not got the stat `health`"));
}

#[test]
fn of_two_who_arrive_together_the_first_in_the_scene_collects() {
    let grant = Grant::default().own_count("coins", 1);
    let coin = Pickup { grant, ..Pickup::default() };
    let runner = |name: &str, x: f64| Entity::new(name).body(ball(0.5)).at([x, 0.0, 0.0]);
    let scene = Scene::builder("Race")
        .entity(runner("left", -9.0))
        .entity(runner("right", 9.0))
        .entity(Entity::new("coin").zone(cube(2.0)).pickup(coin))
        .build()
        .unwrap();
    let mut play = Play::new(scene);
    for name in ["right", "left"] {
        let who = play.scene().find(name).unwrap();
        let (to, until) = ([0.0; 3].into(), Time::from_secs(1.0));
        play.schedule(Time::ZERO, Input::Drive { who, to, until }).unwrap();
    }
    let entries = play_until(&mut play, 2.0);
    let collected: Vec<_> =
        words(&play, &entries).into_iter().filter(|it| it.starts_with("collect")).collect();
    assert_eq!(collected, ["collect coin left"]);
}

#[test]
fn a_reset_gives_back_what_was_there_at_the_start() {
    let scene = dusty().kind(Kind::new("none")).build().unwrap();
    let mut play = Play::new(scene);
    play.place("ball", [0.0; 3]).unwrap();
    play_until(&mut play, 1.0);
    assert!((stat(&play, "ball", "health") - 60.0).abs() < 1e-9);
    play.act(Action::reset("ball")).unwrap();
    let entries = play_until(&mut play, 9.0);
    assert_eq!(words(&play, &entries), ["exit dust ball teleport"]);
    assert_eq!(stat(&play, "ball", "health"), 100.0, "and nothing of the dust is left");
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(32))]

    #[test]
    fn going_back_gives_the_same_numbers(places in prop::collection::vec(-3.0..3.0_f64, 1..20), back in 0..30_usize) {
        let herb = Pickup { grant: Grant::default().stat("health", 7.0), back_after: Some(0.35), limit: Some(9) };
        let scene = dusty()
            .entity(Entity::new("herb").at([1.5, 0.0, 0.0]).zone(cube(1.0)).pickup(herb))
            .reaction(Reaction::on(Trigger::empty("ball", "health")).then(Action::heal("who", 30.0)))
            .build()
            .unwrap();
        let mut play = Play::new(scene);
        let ball = play.scene().find("ball").unwrap();
        for (index, x) in places.into_iter().enumerate() {
            let (start, end) = (index as f64 * 0.2, index as f64 * 0.2 + 0.15);
            let (to, until) = ([x, 0.0, 0.0].into(), Time::from_secs(end));
            play.schedule(Time::from_secs(start), Input::Drive { who: ball, to, until }).unwrap();
        }
        let (mut past, mut told) = (Vec::new(), Vec::new());
        for step in 0..40 {
            past.push(play.state().clone());
            told.push(play.advance(Time::from_secs(f64::from(step + 1) * 0.1)).to_vec());
        }
        let end = play.state().fingerprint();
        play.restore(past[back].clone()).unwrap();
        for (step, told) in told.iter().enumerate().skip(back) {
            prop_assert_eq!(play.advance(Time::from_secs((step + 1) as f64 * 0.1)), &told[..]);
        }
        prop_assert_eq!(play.state().fingerprint(), end);
    }
}
