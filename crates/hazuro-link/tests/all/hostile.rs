//! Clients that mean no good: nothing comes of it for the others, and nothing breaks.

use hazuro::Chance;
use hazuro_link::{Conditions, Deed, Guest, News, Rehearsal, Rules, Standing};
use proptest::prelude::*;

use crate::desk::{client, rehearsal};

/// Ada, who is honest and walks about, and a line for somebody else.
fn desk() -> Rehearsal {
    let mut desk = rehearsal(Rules::default());
    desk.join(client("ada"), Conditions { delay: 0.05, ..Conditions::default() }, 1);
    desk.join(client("bob"), Conditions::default(), 2);
    desk.advance(1.0);
    desk
}

/// Fingerprints of what ada sees tick by tick while somebody sends this by bob's line.
fn seen(mut send: impl FnMut(&mut Rehearsal, u32)) -> Vec<u64> {
    let mut desk = desk();
    desk.cut(1);
    desk.advance(0.1);
    let line = desk.room.open(true);
    desk.client(0).act(Deed::Walk { to: [0.0, 0.0, 5.0].into() }).unwrap();
    let mut seen = Vec::new();
    for tick in 0..60 {
        send(&mut desk, tick);
        desk.step();
        seen.push(desk.client(0).play().state().fingerprint());
    }
    assert_eq!(desk.client(0).standing(), &Standing::Playing);
    let _ = line;
    seen
}

#[test]
fn a_hundred_thousand_hostile_messages_are_noticed_by_nobody_else() {
    let quiet = seen(|_, _| {});
    let mut chance = Chance::new(9);
    let mut lines = Vec::new();
    let sent = std::cell::Cell::new(0);
    let loud = seen(|desk, _| {
        for _ in 0..1700 {
            // A line that has been closed is opened anew, as somebody would who does not give in.
            lines.retain(|line| desk.room.is_open(*line));
            if lines.is_empty() {
                lines.push(desk.room.open(true));
            }
            let length = (chance.next() * 40.0) as usize;
            let mut bytes: Vec<u8> = (0..length).map(|_| (chance.next() * 256.0) as u8).collect();
            if chance.next() < 0.5 {
                // Begins as a message does.
                bytes.splice(0..0, *b"\xa1\x65deeds\xa3\x65heard");
            }
            desk.room.receive(lines[0], &bytes);
            sent.set(sent.get() + 1);
        }
        desk.room.outgoing().for_each(drop);
        desk.room.news().for_each(drop);
    });
    assert!(sent.get() >= 100_000);
    assert_eq!(quiet, loud, "the honest see the very same");
}

#[test]
fn what_is_out_of_time_or_out_of_bounds_is_refused_with_a_reason() {
    let mut desk = desk();
    let refused = |desk: &mut Rehearsal, deed: Deed| {
        desk.room.news().for_each(drop);
        let done = desk.client(1).act(deed);
        desk.advance(0.2);
        let told: Vec<String> = desk.client(1).refused().map(|(_, why)| why).collect();
        (done.err().map(|fault| fault.to_string()), told)
    };
    // A client that keeps to its own rules does not even send these.
    let (own, _) = refused(&mut desk, Deed::Grab { what: "ada's purse".into() });
    assert_eq!(own.as_deref(), Some("there is no entity named `ada's purse`"));
    let (own, _) = refused(&mut desk, Deed::Walk { to: [f64::NAN, 0.0, 0.0].into() });
    assert!(own.is_some());
    // Far too many at once are.
    let face = || Deed::Face { to: [0.0, 0.0, 9.0].into() };
    for _ in 0..70 {
        desk.client(1).act(face()).unwrap();
    }
    desk.advance(0.3);
    let why: Vec<String> = desk.client(1).refused().map(|(_, why)| why).collect();
    assert!(why.iter().any(|why| why.contains("more than 60 deeds a second")), "{why:?}");
    assert_eq!(desk.client(1).standing(), &Standing::Playing);
    // Those who go on like this are closed.
    for _ in 0..100 {
        desk.client(1).act(face()).unwrap();
    }
    desk.advance(0.3);
    let closed = |it: &Standing| matches!(it, Standing::Closed(why) if why.contains("too many"));
    assert!(closed(desk.client(1).standing()));
    let told = |news: News| matches!(news, News::Closed { .. });
    assert!(desk.room.news().any(told));
    assert_eq!(desk.client(0).standing(), &Standing::Playing);
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(16))]

    /// Real messages that were damaged on the way, replayed, or cut off.
    #[test]
    fn damaged_and_replayed_messages_break_nothing(
        flips in prop::collection::vec((0_usize..200, 0_u8..=255), 1..4),
        cut in prop::option::of(0_usize..200),
        again in 0_usize..4,
        seed in 0_u64..100,
    ) {
        let mut desk = rehearsal(Rules::default());
        desk.join(client("ada"), Conditions::default(), seed);
        desk.join(client("bob"), Conditions { loss: 0.1, ..Conditions::default() }, seed + 1);
        desk.advance(0.5);
        let _ = desk.client(1).act(Deed::Walk { to: [0.0, 0.0, 4.0].into() });
        desk.client(1).step();
        let real: Vec<Vec<u8>> = desk.client(1).outgoing().collect();
        for bytes in real {
            let mut damaged = bytes.clone();
            for (place, with) in &flips {
                let place = place % damaged.len().max(1);
                if let Some(byte) = damaged.get_mut(place) {
                    *byte ^= with;
                }
            }
            damaged.truncate(cut.unwrap_or(usize::MAX));
            desk.send(1, damaged);
            for _ in 0..again {
                desk.send(1, bytes.clone());
            }
            desk.send(1, bytes);
        }
        desk.advance(1.0);
        desk.room.play().state().assert_consistent(desk.room.play().scene());
        prop_assert_eq!(desk.client(0).standing(), &Standing::Playing);
    }
}
