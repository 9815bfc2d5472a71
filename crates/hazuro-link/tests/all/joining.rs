//! Joining, being denied, being cut off and coming back.

use hazuro::geometry::Shape;
use hazuro::scene::{Body, Entity};
use hazuro::{Play, Scene};
use hazuro_link::{
    Client, Conditions, Deed, Denial, Guest, News, Rehearsal, Room, Rules, Standing,
};

use crate::desk::{client, rehearsal, yard};

fn good() -> Conditions {
    Conditions::default()
}

fn standing(desk: &mut Rehearsal, client: Client) -> Standing {
    let number = desk.join(client, good(), 1);
    desk.advance(0.2);
    desk.client(number).standing().clone()
}

#[test]
fn whoever_joins_is_in_the_play_from_then_on_and_nobody_before() {
    let mut desk = rehearsal(Rules::default());
    desk.step();
    let is_there = |desk: &Rehearsal, name: &str| {
        let play = desk.room.play();
        play.snapshot().is_enabled(play.scene().find(name).unwrap())
    };
    assert!(!is_there(&desk, "ada") && !is_there(&desk, "bob"));
    // Whoever wants nobody in particular gets the first.
    let any = desk.join(Client::new(yard()), good(), 1);
    desk.advance(0.2);
    let player = desk.client(any).player();
    assert_eq!(player, desk.room.play().scene().find("ada"));
    assert!(is_there(&desk, "ada") && !is_there(&desk, "bob"));
    assert!(matches!(desk.room.news().next(), Some(News::Joined { .. })));
    assert_eq!(desk.room.seats().count(), 1);
}

#[test]
fn who_may_not_join_is_told_why() {
    let mut desk = rehearsal(Rules { token: Some("tide".into()), ..Rules::default() });
    let denied = |why: Denial| Standing::Denied(why);
    assert_eq!(standing(&mut desk, client("ada")), denied(Denial::Token));
    assert_eq!(standing(&mut desk, client("ada").token("tied")), denied(Denial::Token));
    assert_eq!(standing(&mut desk, client("ada").token("tide")), Standing::Playing);
    let taken = Denial::Taken { name: "ada".into() };
    assert_eq!(standing(&mut desk, client("ada").token("tide")), denied(taken));
    for name in ["lever", "nobody"] {
        let none = Denial::NoPlayer { name: name.into() };
        assert_eq!(standing(&mut desk, client(name).token("tide")), denied(none));
    }
    let other = Scene::builder("Yard")
        .entity(Entity::new("ada").player(true).body(Body::new(Shape::Sphere { radius: 0.3 })))
        .build()
        .unwrap();
    let other = Client::new(other).named("ada").token("tide");
    assert_eq!(standing(&mut desk, other), denied(Denial::Scene));
    assert_eq!(standing(&mut desk, Client::new(yard()).token("tide")), Standing::Playing);
    assert_eq!(standing(&mut desk, Client::new(yard()).token("tide")), Standing::Playing);
    let full = standing(&mut desk, Client::new(yard()).token("tide"));
    assert_eq!(full, denied(Denial::Full));
}

#[test]
fn who_is_cut_off_comes_back_as_the_same_player_with_what_they_have() {
    let mut desk = rehearsal(Rules { hold: 2.0, ..Rules::default() });
    let ada = desk.join(client("ada"), Conditions { delay: 0.05, ..good() }, 1);
    desk.advance(1.0);
    desk.client(ada).act(Deed::Grab { what: "rye".into() }).unwrap();
    desk.advance(0.5);
    desk.cut(ada);
    desk.advance(1.0);
    assert_eq!(
        standing(&mut desk, client("ada")),
        Standing::Denied(Denial::Taken { name: "ada".into() })
    );
    desk.come_back(ada);
    desk.advance(0.5);
    assert_eq!(desk.client(ada).standing(), &Standing::Playing);
    let play = desk.client(ada).play();
    assert_eq!(play.owner("rye").unwrap(), play.scene().find("ada"));
    desk.client(ada).act(Deed::Drop).unwrap();
    desk.advance(1.0);
    assert!(desk.room.play().in_hands("ada").unwrap().is_empty());

    // After too long the seat is given up.
    desk.cut(ada);
    desk.advance(2.5);
    desk.come_back(ada);
    desk.advance(0.5);
    assert_eq!(desk.client(ada).standing(), &Standing::Denied(Denial::GivenUp));
    assert!(desk.room.news().any(|news| matches!(news, News::Left { .. })));
    assert_eq!(standing(&mut desk, client("ada")), Standing::Playing);
}

#[test]
fn a_late_joiner_sees_all_that_has_come_about() {
    let mut desk = rehearsal(Rules::default());
    let ada = desk.join(client("ada"), good(), 1);
    desk.advance(1.0);
    desk.client(ada).act(Deed::Walk { to: "pad".into() }).unwrap();
    desk.advance(4.0);
    let bob = desk.join(client("bob"), good(), 2);
    desk.advance(0.3);
    let play = desk.client(bob).play();
    assert_eq!(play.occupants("pad").unwrap(), [play.scene().find("ada").unwrap()]);
    // The lift has gone its way all the while.
    let host = desk.room.play().pose("lift").unwrap().position;
    let seen = desk.client(bob).play().pose("lift").unwrap().position;
    assert!(host.distance(seen) < 0.1, "{host} {seen}");
}

#[test]
fn silence_closes_a_line_and_so_does_a_scene_that_grows() {
    let mut desk = rehearsal(Rules { silence: 1.0, ..Rules::default() });
    let cut = Conditions { cut: Some((1.0, 9.0)), ..good() };
    desk.join(client("ada"), cut, 1);
    desk.advance(3.0);
    let closed = |news: News| matches!(news, News::Closed { why, .. } if why.contains("too long"));
    assert!(desk.room.news().any(closed));

    let mut room = Room::new(Play::new(yard()), Rules::default());
    room.open(true);
    room.play_mut().add(Entity::new("more")).unwrap();
    room.step();
    assert!(
        room.news().any(|news| matches!(news, News::Closed { why, .. } if why.contains("grown")))
    );
}
