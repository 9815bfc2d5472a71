//! Reactions that take time: waits, repetitions, what ends them, and what happens when they are
//! set off again.

use crate::support;

use hazuro::scene::{
    Action, Again, Condition, Entity, EventKind, Kind, Per, Reaction, SceneBuilder, Trigger, Zone,
};
use hazuro::{Entry, Happening, Input, Play, Scene, Time};
use proptest::prelude::*;
use support::{ball, cube, play_until, story, yard};

fn cues(play: &Play, entries: &[Entry]) -> Vec<(String, f64)> {
    let cues = story(play, entries).into_iter();
    let cues = cues.filter_map(|(words, time)| {
        let name = words.strip_prefix("cue ")?.split(' ').next()?.to_owned();
        Some((name, time))
    });
    cues.filter(|(name, _)| name != "go").collect()
}

/// Plays a scene with the cue `go` at these times.
fn gone(scene: SceneBuilder, at: &[f64], until: f64) -> Vec<(String, f64)> {
    let mut play = Play::new(scene.build().unwrap());
    let mut entries = Vec::new();
    for time in at {
        entries.extend(play_until(&mut play, *time));
        play.act(Action::cue("go")).unwrap();
    }
    entries.extend(play_until(&mut play, until));
    cues(&play, &entries)
}

fn on_go() -> Reaction {
    Reaction::on(Trigger::cue("go"))
}

fn told(told: &[(&str, f64)]) -> Vec<(String, f64)> {
    told.iter().map(|(name, time)| ((*name).to_owned(), *time)).collect()
}

#[test]
fn sequences_wait_and_go_on_side_by_side() {
    let reaction = on_go()
        .after(0.5)
        .then(Action::cue("a1"))
        .then(Action::wait(1.0))
        .then(Action::cue("a2"))
        .then(Action::wait(0.25))
        .then(Action::cue("a3"))
        .meanwhile()
        .then(Action::cue("b1"))
        .then(Action::wait(1.125))
        .then(Action::cue("b2"));
    let expected = [("a1", 1.5), ("b1", 1.5), ("a2", 2.5), ("b2", 2.625), ("a3", 2.75)];
    for rate in [3, 60, 999] {
        assert_eq!(
            gone(yard().rate(rate).reaction(reaction.clone()), &[1.0], 9.0),
            told(&expected)
        );
    }
}

#[test]
fn a_sequence_waits_until_something_has_arrived_however_late() {
    let reaction = on_go()
        .then(Action::move_by("pad", [0.0, 0.0, 50.0]).over(2.0))
        .then(Action::wait_for("pad"))
        .then(Action::cue("there"));
    let late = Reaction::on(Trigger::cue("there")).then(Action::add("there", 1));
    let mut play = Play::new(yard().reaction(reaction).reaction(late).build().unwrap());
    play.act(Action::cue("go")).unwrap();
    play_until(&mut play, 1.0);
    play.act(Action::move_by("pad", [0.0, 0.0, 1.0]).over(3.0)).unwrap();
    play_until(&mut play, 3.9);
    assert_eq!(play.count("there"), 0, "it has set out for elsewhere meanwhile");
    play_until(&mut play, 4.1);
    assert_eq!(play.count("there"), 1);
}

#[test]
fn again_and_again_until_it_ends() {
    let drip = || on_go().then(Action::cue("drip")).every(0.5);
    let three = [("drip", 1.0), ("drip", 1.5), ("drip", 2.0)];
    assert_eq!(gone(yard().reaction(drip().times(3)), &[1.0], 9.0), told(&three));
    let until = drip().until(Trigger::cue("full"));
    let fill = on_go().then(Action::wait(1.2)).then(Action::cue("full"));
    let mut expected = told(&three);
    expected.push(("full".into(), 2.2));
    assert_eq!(gone(yard().reaction(until).reaction(fill), &[1.0], 9.0), expected);
    let counted = drip()
        .then(Action::add("drops", 1))
        .until_holds(Condition::new("3", |facts| facts.count("drops") >= 3));
    assert_eq!(gone(yard().reaction(counted), &[1.0], 9.0), told(&three));
    let stopped = drip().named("drip");
    let stop = on_go().then(Action::wait(1.2)).then(Action::stop("drip"));
    assert_eq!(gone(yard().reaction(stopped).reaction(stop), &[1.0], 9.0), told(&three));
}

#[test]
fn when_set_off_again_it_does_as_it_says() {
    let reaction = |again: Again| {
        on_go().again(again).then(Action::cue("a")).then(Action::wait(2.0)).then(Action::cue("b"))
    };
    let play = |again: Again| gone(yard().reaction(reaction(again)), &[1.0, 2.0, 2.5], 20.0);
    let beside = [("a", 1.0), ("a", 2.0), ("a", 2.5), ("b", 3.0), ("b", 4.0), ("b", 4.5)];
    assert_eq!(play(Again::Beside), told(&beside));
    assert_eq!(play(Again::Restart), told(&[("a", 1.0), ("a", 2.0), ("a", 2.5), ("b", 4.5)]));
    assert_eq!(play(Again::Ignore), told(&[("a", 1.0), ("b", 3.0)]));
    let queue = [("a", 1.0), ("b", 3.0), ("a", 3.0), ("b", 5.0), ("a", 5.0), ("b", 7.0)];
    assert_eq!(play(Again::Queue), told(&queue));
}

#[test]
fn what_is_each_subjects_own_is_kept_apart() {
    let drip = Reaction::on(Trigger::enter("kind:tap"))
        .per(Per::Subject)
        .once()
        .every(1.0)
        .then(Action::add_to("who", "drops", 1))
        .until(Trigger::exit("kind:tap"));
    let tap = |name: &str, x: f64| Entity::new(name).kind("tap").at([x, 0.0, 0.0]);
    let scene = Scene::builder("Yard")
        .kind(Kind::new("tap").zone(Zone::clone(&cube(2.0))))
        .entity(tap("left", 0.0))
        .entity(tap("right", 10.0))
        .entity(Entity::new("ant").body(ball(0.1)).at([0.0, 0.0, 9.0]))
        .entity(Entity::new("bee").body(ball(0.1)).at([0.0, 0.0, 9.0]))
        .reaction(drip);
    let mut play = Play::new(scene.build().unwrap());
    play.place("ant", [0.0; 3]).unwrap();
    play_until(&mut play, 0.5);
    play.place("bee", [0.0; 3]).unwrap();
    play_until(&mut play, 2.2);
    assert_eq!(play.running().len(), 2);
    // One leaves; the other goes on. Coming back is not the first time.
    play.place("ant", [0.0, 0.0, 9.0]).unwrap();
    play_until(&mut play, 2.7);
    play.place("ant", [10.0, 0.0, 0.0]).unwrap();
    play_until(&mut play, 3.7);
    let drops = |name: &str| {
        use hazuro::scene::Facts;
        play.facts().count_of(play.scene().find(name).unwrap(), "drops")
    };
    assert_eq!((drops("ant"), drops("bee")), (3, 4));
}

#[test]
fn else_is_done_when_only_the_condition_does_not_hold() {
    let paid = || Condition::new("count.tokens >= 2", |facts| facts.count("tokens") >= 2);
    let toll = on_go()
        .when(paid())
        .cooldown(10.0)
        .then(Action::cue("opens"))
        .otherwise(Action::add("tokens", 1))
        .otherwise(Action::wait(0.25))
        .otherwise(Action::cue("asks"));
    // Twice for want of tokens, then open, then in its cooldown: nothing at all.
    let expected = [("asks", 1.25), ("asks", 2.25), ("opens", 3.0)];
    assert_eq!(gone(yard().reaction(toll), &[1.0, 2.0, 3.0, 4.0], 9.0), told(&expected));
}

#[test]
fn one_of_a_kind_does_otherwise_and_order_has_its_say() {
    let pad = |name: &str, x: f64| Entity::new(name).kind("pad").at([x, 0.0, 9.0]);
    let enter = |on: &str| Reaction::on(Trigger::enter(on));
    let scene = Scene::builder("Yard")
        .kind(Kind::new("pad").tags(["flat"]).zone(cube(1.0)))
        .entity(pad("one", 0.0))
        .entity(pad("two", 4.0))
        .entity(Entity::new("ball").body(ball(0.2)))
        .reaction(enter("kind:pad").order(5).then(Action::cue("late")))
        .reaction(enter("kind:pad").named("usual").then(Action::cue("usual")))
        .reaction(enter("two").instead_of("usual").then(Action::cue("special")))
        .reaction(
            Reaction::on(Trigger::exit("one"))
                .or(Trigger::enter("tag:flat"))
                .order(-1)
                .then(Action::cue("early")),
        );
    let mut play = Play::new(scene.build().unwrap());
    play.step();
    play.place("ball", [0.0, 0.0, 9.0]).unwrap();
    let mut entries = play_until(&mut play, 1.0);
    play.place("ball", [4.0, 0.0, 9.0]).unwrap();
    entries.extend(play_until(&mut play, 2.0));
    let names: Vec<_> = cues(&play, &entries).into_iter().map(|(name, _)| name).collect();
    // In at one; out of one and in at two.
    assert_eq!(names, ["early", "usual", "late", "early", "early", "special", "late"]);
}

#[test]
fn a_reaction_on_its_own_cue_is_stopped_and_named() {
    let cues = gone(yard().reaction(on_go().then(Action::cue("go"))), &[1.0], 3.0);
    assert_eq!(cues, []);
    // With a wait between it is no circle.
    let mut play = Play::new(
        yard()
            .reaction(
                on_go().then(Action::wait(0.1)).then(Action::cue("go")).then(Action::add("n", 1)),
            )
            .build()
            .unwrap(),
    );
    play.act(Action::cue("go")).unwrap();
    let entries = play_until(&mut play, 100.05);
    assert!(!entries.iter().any(|entry| matches!(&entry.what, Happening::Problem { .. })));
    assert_eq!(play.count("n"), 1000);
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(48))]

    #[test]
    fn going_back_gives_the_same_sequences(at in prop::collection::vec(0..40_u32, 1..12), back in 0..50_usize) {
        let scene = || yard()
            .reaction(on_go().again(Again::Queue).then(Action::cue("q")).then(Action::wait(0.7)))
            .reaction(on_go().again(Again::Restart).after(0.3).every(0.4).times(3).then(Action::cue("r")))
            .reaction(Reaction::on(Trigger::cue("r")).per(Per::Subject).cooldown(0.5).then(Action::add("n", 1)))
            .build()
            .unwrap();
        let mut play = Play::new(scene());
        for time in at {
            let time = Time::from_secs(f64::from(time) / 10.0);
            play.schedule(time, Input::Act(Action::Cue { name: "go".into(), on: None, who: None })).unwrap();
        }
        let (mut past, mut told) = (Vec::new(), Vec::new());
        for step in 0..60 {
            past.push(play.state().clone());
            told.push(play.advance(Time::from_secs(f64::from(step + 1) / 10.0)).to_vec());
        }
        let end = play.state().clone();
        play.restore(past[back].clone()).unwrap();
        for (step, told) in told.iter().enumerate().skip(back) {
            let again = play.advance(Time::from_secs((step + 1) as f64 / 10.0));
            prop_assert_eq!(again, &told[..]);
        }
        prop_assert_eq!(play.state(), &end);
    }
}

/// What is done about events by hand, each at a time with a detector and a subject, by a plain model:
/// the numbers of the events that are done in the end.
fn modelled(
    per: Per,
    again: Again,
    (limit, cooldown): (Option<u64>, u32),
    delay: u32,
    events: &[(u32, usize, usize)],
) -> usize {
    // By scope: how many there were, from when on there may be another, and until when each runs.
    let mut scopes: std::collections::BTreeMap<(usize, usize), (u64, u32, Vec<u32>)> =
        std::collections::BTreeMap::new();
    let mut done = 0;
    for (time, on, who) in events {
        let key = match per {
            Per::All => (9, 9),
            Per::Subject => (9, *who),
            Per::Detector => (*on, 9),
            Per::Both => (*on, *who),
        };
        let (times, ready, running) = scopes.entry(key).or_default();
        done += running.iter().filter(|due| **due <= *time).count();
        running.retain(|due| *due > *time);
        let ignored = again == Again::Ignore && !running.is_empty();
        if limit.is_some_and(|limit| *times >= limit) || *time < *ready || ignored {
            continue;
        }
        *times += 1;
        *ready = time + cooldown;
        let due = match again {
            Again::Restart => {
                running.clear();
                time + delay
            }
            Again::Queue => running.iter().max().copied().unwrap_or(*time) + delay,
            Again::Beside | Again::Ignore => time + delay,
        };
        running.push(due);
    }
    done + scopes.values().map(|(_, _, running)| running.len()).sum::<usize>()
}

proptest! {
    /// Once, limit, cooldown and again count by subject, by detector, by both or for all.
    #[test]
    fn whose_a_reaction_counts_is_as_in_a_plain_model(
        per in prop::sample::select(Per::ALL.to_vec()),
        again in prop::sample::select(Again::ALL.to_vec()),
        limit in prop::option::of(1..4_u64),
        cooldown in prop_oneof![Just(0), 1..30_u32],
        delay in 1..30_u32,
        gaps in prop::collection::vec((1..12_u32, 0..2_usize, 0..2_usize), 1..14),
    ) {
        let step = |steps: u32| f64::from(steps) * 0.05;
        let mut reaction = Reaction::on(Trigger::enter("kind:pad"))
            .per(per)
            .again(again)
            .cooldown(step(cooldown))
            // Between two steps, so that nothing comes at the same time.
            .after(step(delay) - 0.025)
            .then(Action::add("done", 1));
        if let Some(limit) = limit {
            reaction = reaction.limit(limit);
        }
        let mut scene = Scene::builder("Yard")
            .kind(Kind::new("pad").zone(cube(1.0)))
            .reaction(reaction);
        for name in ["a", "b"] {
            scene = scene
                .entity(Entity::new(name).kind("pad").at([50.0, 0.0, 0.0]))
                .entity(Entity::new(format!("ball {name}")).body(ball(0.1)));
        }
        let mut play = Play::new(scene.build().unwrap());
        let mut time = 0;
        let mut events = Vec::new();
        for (gap, on, who) in gaps {
            time += gap;
            events.push((time, on, who));
            let find = |name: &str| play.scene().find(name).unwrap();
            let (on, who) = (find(["a", "b"][on]), Some(find(["ball a", "ball b"][who])));
            let send = Action::Send { event: EventKind::Enter, on, who };
            play.schedule(Time::from_secs(step(time)), Input::Act(send)).unwrap();
        }
        play_until(&mut play, 60.0);
        let wanted = modelled(per, again, (limit, cooldown), delay, &events);
        prop_assert_eq!(play.count("done") as usize, wanted);
    }
}
