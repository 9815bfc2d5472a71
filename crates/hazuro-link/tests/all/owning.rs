//! Who gets what, over lines.

use hazuro::scene::EventKind;
use hazuro_link::{Conditions, Deed, Guest, Rehearsal};

use crate::desk::desk;

fn grab(desk: &mut Rehearsal, who: usize, what: &str) {
    desk.client(who).act(Deed::Grab { what: what.into() }).unwrap();
}

fn owner(desk: &Rehearsal, what: &str) -> Option<String> {
    let play = desk.room.play();
    play.owner(what).unwrap().map(|owner| play.scene().name(owner).to_owned())
}

#[test]
fn a_sack_thrown_by_one_is_seen_by_the_other_who_gets_it_only_when_it_lies_still() {
    let delay = 0.1;
    let mut desk = desk(Conditions { delay, ..Conditions::default() }, 1);
    desk.advance(2.0);
    desk.client(1).events().for_each(drop);
    grab(&mut desk, 0, "rye");
    desk.advance(0.5);
    desk.client(0).act(Deed::Throw { velocity: [0.0, 6.0, 0.0] }).unwrap();
    // Within the delay each way, the client's lead and a tick, the other has seen it.
    let ticks = ((2.0 * delay + 0.1) * 60.0) as usize + 1;
    let saw = (0..ticks).any(|_| {
        desk.step();
        desk.client(1).events().any(|event| event.kind == EventKind::Drop)
    });
    assert!(saw, "not within {ticks} ticks");
    grab(&mut desk, 1, "rye");
    desk.advance(0.3);
    // Refused, with the owner's name, in the log of the play and so in everybody's.
    assert_eq!(owner(&desk, "rye").as_deref(), Some("ada"));
    desk.advance(4.0);
    assert_eq!(owner(&desk, "rye"), None, "it lies still");
    grab(&mut desk, 1, "rye");
    desk.advance(0.5);
    assert_eq!(owner(&desk, "rye").as_deref(), Some("bob"));
    let seen = desk.client(2).play();
    assert_eq!(seen.owner("rye").unwrap(), seen.scene().find("bob"));
}

#[test]
fn of_two_who_grab_at_one_moment_the_host_says_who_has_it_and_both_agree() {
    let mut desk = desk(Conditions { delay: 0.08, ..Conditions::default() }, 1);
    desk.advance(2.0);
    grab(&mut desk, 0, "oats");
    grab(&mut desk, 1, "oats");
    desk.advance(1.0);
    let owner = owner(&desk, "oats").unwrap();
    for number in 0..3 {
        let play = desk.client(number).play();
        assert_eq!(play.owner("oats").unwrap(), play.scene().find(&owner));
        let ahead = desk.client(number).ahead();
        assert_eq!(ahead.owner("oats").unwrap(), ahead.scene().find(&owner));
    }
}

#[test]
fn who_leaves_gives_back_what_is_theirs() {
    let mut desk = desk(Conditions::default(), 1);
    desk.advance(1.0);
    grab(&mut desk, 0, "rye");
    desk.advance(0.5);
    assert_eq!(owner(&desk, "rye").as_deref(), Some("ada"));
    desk.client(0).leave();
    desk.advance(0.5);
    assert_eq!(owner(&desk, "rye"), None);
    assert!(desk.client(1).events().any(|event| event.kind == EventKind::Disown));
}

#[test]
fn a_text_for_one_player_goes_to_nobody_else() {
    let mut desk = desk(Conditions::default(), 1);
    desk.advance(1.0);
    desk.client(1).act(Deed::Interact { with: "lever".into() }).unwrap();
    desk.advance(0.5);
    assert_eq!(desk.client(1).said().collect::<Vec<_>>(), ["bob has pulled it."]);
    assert_eq!(desk.client(0).said().count(), 0);
    assert_eq!(desk.client(2).play().count("pulls"), 1);
}
