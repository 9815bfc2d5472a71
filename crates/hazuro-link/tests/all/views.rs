//! Clients that hold no scene: what they are told is so, and no secret of somebody else is ever told.

use std::collections::BTreeSet;

use hazuro::geometry::Shape;
use hazuro::scene::{Action, Detector, Entity, Facts, Owners, Ownership, Prompt, Switch, Zone};
use hazuro::{Input, Play};
use hazuro_link::{
    Client, Deed, Denial, Guest, LineId, Press, Room, Rules, Seen, Standing, Viewer,
};
use proptest::prelude::*;
use serde_json::{Value, json};

use crate::desk::{PLAYERS, any_deed, plan, yard};

/// With a note for each player that only its owner is told of, and a seal on it to be used.
fn with_secrets() -> hazuro::Scene {
    let secret = || Ownership { by: Owners::Host, secret: true, ..Ownership::default() };
    let mut plan = plan();
    for (player, x) in PLAYERS.into_iter().zip([-9.0, -8.0, -7.0]) {
        let note = format!("note_of_{player}");
        let zone = Zone::new(Shape::Sphere { radius: 0.5 });
        plan = plan
            .entity(Entity::new(note.as_str()).at([x, 0.5, 3.0]).zone(zone).ownership(secret()))
            .entity(
                Entity::new(format!("seal_of_{player}")).parent(note.as_str()).prompt(Prompt {
                    reach: 20.0,
                    several: true,
                    ..Prompt::default()
                }),
            );
    }
    plan.build().unwrap()
}

/// A room with the three viewers, on lines that are reliable.
struct Desk {
    room: Room,
    viewers: Vec<(LineId, Viewer)>,
    /// All that went to each.
    sent: Vec<Vec<u8>>,
}

impl Desk {
    fn new(scene: hazuro::Scene) -> Self {
        let mut room = Room::new(Play::new(scene), Rules::default());
        let viewers =
            PLAYERS.map(|name| (room.open(true), Viewer::new().named(name))).into_iter().collect();
        let mut desk = Self { room, viewers, sent: vec![Vec::new(); 3] };
        desk.advance(30);
        desk
    }

    fn advance(&mut self, ticks: u32) {
        for _ in 0..ticks {
            for (line, viewer) in &mut self.viewers {
                viewer.step();
                viewer.outgoing().for_each(|bytes| self.room.receive(*line, &bytes));
            }
            self.room.step();
            for (line, bytes) in self.room.outgoing() {
                let number = self.viewers.iter().position(|(it, _)| *it == line).unwrap();
                self.viewers[number].1.receive(&bytes);
                self.sent[number].extend(bytes);
            }
        }
    }

    /// Holds what each has been told against the play.
    fn check(&self) {
        let play = self.room.play();
        let (scene, facts) = (play.scene(), play.facts());
        for (_, viewer) in &self.viewers {
            assert_eq!(viewer.standing(), &Standing::Playing);
            let player = viewer.player().unwrap();
            for id in scene.ids() {
                let name = scene.name(id);
                let is_there = facts.is_there(id) && play.knows(player, id).unwrap();
                let seen = viewer.thing(name);
                assert_eq!(seen.is_some_and(Seen::is_there), is_there, "{name}");
                let Some(seen) = seen.filter(|_| is_there) else { continue };
                let pose = play.pose(id).unwrap();
                assert!((seen.position() - pose.position).abs().max_element() < 1e-4, "{name}");
                assert!(seen.rotation().angle_between(pose.rotation) < 1e-3, "{name}");
                let owner = play.owner(id).unwrap().map(|owner| scene.name(owner));
                assert_eq!(seen.owner(), owner, "{name}");
                let switches = [Switch::Enabled, Switch::Solid, Switch::Detect, Switch::Visible];
                for switch in switches {
                    assert_eq!(seen.is_on(switch), facts.is_on(id, switch), "{name}");
                }
            }
            for on in ["pad", "lever"] {
                let inside = viewer.thing(on).unwrap().detects();
                let detector = if on == "pad" { Detector::Zone } else { Detector::Prompt };
                let by = play.detected(on, detector).unwrap();
                let by: Vec<&str> = by.into_iter().map(|who| scene.name(who)).collect();
                assert_eq!(inside, by, "{on}");
            }
        }
    }
}

fn has(bytes: &[u8], word: &str) -> bool {
    bytes.windows(word.len()).any(|part| part == word.as_bytes())
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(24))]

    /// Whatever the players do and the host gives to whom: each is told what is so, and of no note that
    /// was never theirs a single byte.
    #[test]
    fn viewers_know_what_is_so_and_nobody_elses_secrets(
        deeds in prop::collection::vec((0_usize..3, any_deed()), 1..24),
        gifts in prop::collection::vec((0_usize..24, 0_usize..3, 0_usize..4), 0..6),
    ) {
        let mut desk = Desk::new(with_secrets());
        let mut was_theirs = [[false; 3]; 3];
        for (number, (who, deed)) in deeds.into_iter().enumerate() {
            let _ = desk.viewers[who].1.act(deed);
            for (_, note, to) in gifts.iter().filter(|(at, ..)| *at == number) {
                let play = desk.room.play_mut();
                let id = |name: &str| play.scene().find(name).unwrap();
                let what = id(&format!("note_of_{}", PLAYERS[*note]));
                let give = match PLAYERS.get(*to) {
                    Some(player) => Action::Own { what, to: id(player) },
                    None => Action::Disown(what),
                };
                play.schedule(play.now(), Input::Act(give)).unwrap();
                if let Some(whose) = was_theirs.get_mut(*to) {
                    whose[*note] = true;
                }
            }
            // A view comes every third tick; what is done meanwhile is in it.
            desk.advance(12);
            desk.check();
        }
        for (sent, was_theirs) in desk.sent.iter().zip(was_theirs) {
            for (note, was_theirs) in PLAYERS.into_iter().zip(was_theirs) {
                // What was theirs for no time at all may never have been told.
                let note = format!("note_of_{note}");
                prop_assert!(was_theirs || !has(sent, &note), "{}", note);
                let seal = note.replace("note", "seal");
                prop_assert!(was_theirs || !has(sent, &seal), "{}", seal);
            }
        }
    }
}

#[test]
fn a_secret_can_neither_be_used_nor_walked_to_nor_guessed_at_by_name() {
    let mut desk = Desk::new(with_secrets());
    let play = desk.room.play_mut();
    let [what, to] = ["note_of_ada", "ada"].map(|name| play.scene().find(name).unwrap());
    play.schedule(play.now(), Input::Act(Action::Own { what, to })).unwrap();
    desk.advance(6);
    assert_eq!(desk.viewers[0].1.offers().len(), 2, "the lever, and the seal of the own note");
    assert_eq!(desk.viewers[1].1.offers().len(), 1, "the lever");
    let to = || "note_of_ada".into();
    let (_, bob) = &mut desk.viewers[1];
    for deed in [
        Deed::Walk { to: to() },
        Deed::Face { to: to() },
        Deed::Follow { whom: "note_of_ada".into(), near: 1.0 },
        Deed::Interact { with: "seal_of_ada".into() },
        Deed::Point { at: hazuro_link::Spot::Name("note_of_ada".into()), button: Press::Stays },
        Deed::Walk { to: "note_of_adi".into() },
        Deed::Grab { what: "note_of_ada".into() },
    ] {
        bob.act(deed).unwrap();
    }
    desk.advance(6);
    let why: Vec<String> = desk.viewers[1].1.refused().map(|(_, why)| why).collect();
    assert_eq!(why.len(), 7, "{why:?}");
    let told =
        |why: &String| why.starts_with("there is no entity named `") && why.ends_with("_ada`");
    assert_eq!(why.iter().filter(|why| told(why)).count(), 6, "{why:?}");
    // Ada may.
    let (_, ada) = &mut desk.viewers[0];
    ada.act(Deed::Interact { with: "seal_of_ada".into() }).unwrap();
    desk.advance(6);
    let (_, ada) = &mut desk.viewers[0];
    assert_eq!(ada.refused().count(), 0);
    assert!(ada.events().any(|event| event.kind == "accept"));
    assert!(!desk.viewers[1].1.events().any(|event| event.kind == "accept"));
}

#[test]
fn who_would_read_secrets_in_the_state_may_not_join() {
    let mut room = Room::new(Play::new(with_secrets()), Rules::default());
    let mut client = Client::new(with_secrets()).named("ada");
    let line = room.open(true);
    client.step();
    client.outgoing().for_each(|bytes| room.receive(line, &bytes));
    room.outgoing().for_each(|(_, bytes)| client.receive(&bytes));
    assert_eq!(client.standing(), &Standing::Denied(Denial::Secrets));
}

/// A client in another language: nothing but text.
#[test]
fn a_player_by_hand_written_json() {
    let mut room = Room::new(Play::new(yard()), Rules::default());
    let line = room.open(true);
    let say = |room: &mut Room, message: Value| {
        room.receive(line, message.to_string().as_bytes());
        let mut heard: Vec<Value> = Vec::new();
        for _ in 0..30 {
            room.step();
            let told = room.outgoing().map(|(_, bytes)| serde_json::from_slice(&bytes).unwrap());
            heard.extend(told);
        }
        heard
    };
    let heard = say(&mut room, json!({"hello": {"version": 1, "view": true, "name": "ada"}}));
    assert_eq!(heard[0]["welcome"]["player"], "ada");
    assert_eq!(heard[0]["welcome"]["rate"], 60);
    assert_eq!(heard[1]["view"]["things"]["ada"]["at"], json!([0.0, 0.0, 0.0]));
    assert_eq!(heard[1]["view"]["offers"][0]["with"], "lever");
    let deeds = json!([
        {"number": 1, "deed": {"grab": {"what": "rye"}}},
        {"number": 2, "deed": {"interact": {"with": "lever"}}},
        {"number": 3, "deed": {"walk": {"to": "nowhere"}}},
    ]);
    let heard = say(&mut room, json!({"deeds": {"list": deeds}}));
    let all = |key: &str| -> Vec<Value> {
        let views = heard.iter().filter_map(|it| it["view"][key].as_array());
        views.flatten().cloned().collect()
    };
    let kinds: Vec<Value> = all("events").iter().map(|event| event["kind"].clone()).collect();
    for kind in ["own", "grab", "accept"] {
        assert!(kinds.contains(&json!(kind)), "{kinds:?}");
    }
    assert_eq!(all("said"), ["ada has pulled it."]);
    assert_eq!(all("refused"), [json!([3, "there is no entity named `nowhere`"])]);
    let sack = heard.iter().find_map(|it| it["view"]["things"]["rye"]["owner"].as_str());
    assert_eq!(sack, Some("ada"));
    // What rests is not told of again: only the lift is on its way.
    let heard = say(&mut room, json!({"deeds": {}}));
    let moved = heard.iter().filter_map(|it| it["view"]["things"].as_object());
    let moved: BTreeSet<&String> = moved.flat_map(|things| things.keys()).collect();
    assert_eq!(moved, BTreeSet::from([&"lift".to_owned()]));
    // No message at all is a fault, and no more.
    room.receive(line, b"{\"deeds\": ");
    assert!(room.is_open(line));
}

#[test]
fn what_comes_into_the_scene_later_is_told_to_viewers_while_mirrors_are_closed() {
    let mut room = Room::new(Play::new(yard()), Rules::default());
    let (mut mirror, mut viewer) = (Client::new(yard()).named("ada"), Viewer::new().named("bob"));
    let lines = [room.open(true), room.open(true)];
    let mut step = |room: &mut Room| {
        mirror.step();
        viewer.step();
        mirror.outgoing().for_each(|bytes| room.receive(lines[0], &bytes));
        viewer.outgoing().for_each(|bytes| room.receive(lines[1], &bytes));
        room.step();
        for (line, bytes) in room.outgoing() {
            if line == lines[0] { mirror.receive(&bytes) } else { viewer.receive(&bytes) }
        }
        (mirror.standing().clone(), viewer.thing("crate").map(Seen::is_there))
    };
    for _ in 0..30 {
        step(&mut room);
    }
    room.play_mut().add(Entity::new("crate").at([1.0, 0.0, 1.0])).unwrap();
    let last = (0..30).map(|_| step(&mut room)).last().unwrap();
    assert!(matches!(last.0, Standing::Closed(why) if why.contains("has grown")));
    assert_eq!(last.1, Some(true));
}
