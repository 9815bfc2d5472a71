//! Good lines and bad ones: everybody knows the host's very states, and one's own body does not wait.

use hazuro::scene::{EventKind, Facts};
use hazuro::{Entry, Play};
use hazuro_link::{Client, Conditions, Deed, Denial, Guest, Rehearsal, Room, Rules, Standing};
use proptest::prelude::*;

use crate::desk::{Truth, any_conditions, any_deed, client, desk, rehearsal, yard};

#[test]
fn on_a_line_with_a_delay_ones_own_body_goes_at_once_and_where_it_was_foreseen() {
    let line = Conditions { delay: 0.12, ..Conditions::default() };
    let mut desk = desk(line, 1);
    desk.advance(2.0);
    desk.client(0).corrections().for_each(drop);
    let before = desk.room.play().pose("ada").unwrap().position;
    desk.client(0).act(Deed::Walk { to: [-4.0, 0.0, 3.0].into() }).unwrap();
    desk.advance(0.1);
    let own = desk.client(0).pose("ada").unwrap().position;
    assert!(own.distance(before) > 0.2, "it walks at once: {own}");
    assert_eq!(desk.room.play().pose("ada").unwrap().position, before, "not yet at the host");
    desk.advance(3.0);
    assert_eq!(desk.client(0).corrections().count(), 0);
    let there = desk.room.play().pose("ada").unwrap().position;
    assert_eq!(there.x, -4.0);
    let events: Vec<_> = desk.client(1).events().map(|event| event.kind).collect();
    assert!(events.contains(&EventKind::Enter), "{events:?}");
    let known = |desk: &mut Rehearsal, number| desk.client(number).play().state().fingerprint();
    assert_eq!(known(&mut desk, 1), known(&mut desk, 2));
}

#[test]
fn who_is_pushed_aside_by_another_is_corrected() {
    let line = Conditions { delay: 0.2, ..Conditions::default() };
    let mut desk = desk(line, 1);
    desk.advance(1.0);
    desk.client(1).act(Deed::Walk { to: [1.5, 0.0, 0.0].into() }).unwrap();
    desk.advance(2.0);
    desk.client(0).corrections().for_each(drop);
    // They meet before the one can know of the other's way.
    desk.client(0).act(Deed::WalkStraight { to: [3.0, 0.0, 0.0].into() }).unwrap();
    desk.client(1).act(Deed::WalkStraight { to: [0.0, 0.0, 0.0].into() }).unwrap();
    desk.advance(2.0);
    let found: Vec<f64> = desk.client(0).corrections().map(|it| it.metres).collect();
    assert!(found.iter().any(|metres| *metres > 0.01), "{found:?}");
    desk.advance(1.0);
    let shown = desk.client(0).pose("ada").unwrap().position;
    let is = desk.room.play().pose("ada").unwrap().position;
    assert!(shown.distance(is) < 1e-3, "shown at {shown}, is at {is}");
}

#[test]
fn others_are_shown_between_what_was_heard_without_a_jump() {
    let line = Conditions { delay: 0.1, jitter: 0.05, loss: 0.1, ..Conditions::default() };
    let mut desk = desk(line, 7);
    desk.advance(2.0);
    desk.client(0).act(Deed::Walk { to: [0.0, 0.0, 5.0].into() }).unwrap();
    let mut last = desk.client(1).pose("ada").unwrap().position;
    let mut farthest: f64 = 0.0;
    for _ in 0..180 {
        desk.step();
        let now = desk.client(1).pose("ada").unwrap().position;
        farthest = farthest.max(now.distance(last));
        last = now;
    }
    assert!(last.z > 4.9, "{last}");
    // At 3 m a second a tick is 5 cm, and they are shown going no more than half as fast again.
    assert!(farthest < 0.08, "{farthest}");
}

#[test]
fn the_same_seed_is_the_same_rehearsal() {
    let play = |seed| {
        let line = Conditions { delay: 0.1, jitter: 0.1, loss: 0.2, ..Conditions::default() };
        let mut desk = desk(line, seed);
        desk.advance(1.0);
        let _ = desk.client(0).act(Deed::Walk { to: [3.0, 0.0, 5.0].into() });
        desk.advance(2.0);
        let corrections: Vec<_> = desk.client(0).corrections().collect();
        (desk.room.play().state().fingerprint(), corrections, desk.client(0).ahead().now())
    };
    assert_eq!(play(3), play(3));
}

#[test]
fn who_has_heard_nothing_for_longer_than_the_host_remembers_is_told_the_whole() {
    let mut desk = rehearsal(Rules { memory: 0.5, silence: 30.0, ..Rules::default() });
    let cut = Conditions { cut: Some((1.0, 3.0)), ..Conditions::default() };
    desk.join(client("ada"), cut, 1);
    let mut truth = Truth::default();
    for _ in 0..300 {
        truth.step(&mut desk, 1);
    }
    assert_eq!(desk.client(0).standing(), &Standing::Playing);
    let behind = desk.room.play().now() - desk.client(0).play().now();
    assert!(behind.secs() < 0.1, "{behind}");
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(4))]

    /// Whatever the lines are like and whatever is done, whoever knows a state of the host knows it to the last
    /// bit; and once nobody does anything more, everybody knows all of it. What was done can be played again.
    #[test]
    fn whatever_the_lines_are_like_everybody_knows_the_same(
        lines in prop::array::uniform3(any_conditions()),
        seed in 0_u64..1000,
        deeds in prop::collection::vec((0_usize..3, 0_u32..180, any_deed()), 0..40),
    ) {
        let mut desk = rehearsal(Rules::default());
        for (number, name) in (0..).zip(crate::desk::PLAYERS) {
            desk.join(client(name), lines[number], seed + number as u64);
        }
        let (mut truth, mut events) = (Truth::default(), Vec::new());
        for tick in 0..420 {
            for (who, _, deed) in deeds.iter().filter(|(_, at, _)| *at == tick) {
                // Before they have joined, nobody does anything.
                let _ = desk.client(*who).act(deed.clone());
            }
            truth.step(&mut desk, 3);
            events.extend(desk.room.play().entries().iter().filter_map(Entry::event).cloned());
        }
        for number in 0..3 {
            let client = desk.client(number);
            prop_assert_eq!(client.standing(), &Standing::Playing);
            let known = client.play().now();
            prop_assert!((desk.room.play().now() - known).secs() < 1.0, "{}", known);
        }
        // What was done, done again in a play by itself, gives the same events.
        let mut again = Play::new(yard());
        for heard in desk.room.heard() {
            again.schedule(heard.at, heard.input.clone()).unwrap();
        }
        let told = again.advance(desk.room.play().now());
        prop_assert_eq!(told.iter().filter_map(Entry::event).cloned().collect::<Vec<_>>(), events);
    }
}

#[test]
fn whoever_is_not_for_clients_stays_and_is_nobodys_to_play() {
    let play = Play::new(yard());
    let ada = play.scene().find("ada").unwrap();
    let mut desk = Rehearsal::new(Room::for_players(play, Rules::default(), [ada]));
    desk.join(client("bob"), Conditions::default(), 1);
    desk.join(Client::new(yard()), Conditions::default(), 2);
    desk.join(Client::new(yard()), Conditions::default(), 3);
    desk.advance(0.5);
    let play = desk.room.play();
    let there = |name: &str| play.facts().is_there(play.scene().find(name).unwrap());
    assert!(there("ada") && there("bob"), "bob was never out");
    let no_player = Denial::NoPlayer { name: "bob".into() };
    assert_eq!(desk.client(0).standing(), &Standing::Denied(no_player));
    assert_eq!(desk.client(1).standing(), &Standing::Playing);
    assert_eq!(desk.client(2).standing(), &Standing::Denied(Denial::Full));
}
