//! Whose things are: who gets them, who is kept from them, and when they are given back.

use crate::support;

use hazuro::geometry::Shape;
use hazuro::scene::{
    Action, Body, Camera, Carry, Drag, Entity, Kind, Owners, Ownership, Pointer, Prompt, Reaction,
    SceneBuilder, SceneErrors, Trigger,
};
use hazuro::why::{Evidence, Gate, Notebook};
use hazuro::{Button, Happening, Input, Play, Refusal, Scene, Spot, Time};
use proptest::prelude::*;
use support::{ball, block, person, play_until, words};

const SACK: Shape = Shape::Box { size: [0.5, 0.7, 0.4] };

fn sack(ownership: Ownership) -> Entity {
    let sack = Entity::new("sack").at([1.0, 0.35, 0.0]).body(Body::new(SACK));
    sack.carry(Carry { reach: 9.0, ..Carry::default() }).ownership(ownership)
}

/// Three people, of whom two are red, on a floor.
fn yard() -> SceneBuilder {
    let one = |name: &str, x: f64| Entity::new(name).at([x, 0.0, 0.0]).body(person()).player(true);
    Scene::builder("Yard")
        .entity(block("floor", [0.0, -0.5, 0.0], [40.0, 1.0, 40.0]))
        .entity(one("ada", 0.0).tags(["red"]))
        .entity(one("bob", 3.0).tags(["red"]))
        .entity(one("cay", 6.0).tags(["blue"]))
}

fn start(scene: SceneBuilder) -> Play {
    Play::new(scene.build().unwrap())
}

/// What comes of somebody reaching for the sack: why not, if not.
fn reach(play: &mut Play, who: &str) -> Option<Refusal> {
    let [who, what] = [who, "sack"].map(|name| play.scene().find(name).unwrap());
    play.schedule(play.now(), Input::Grab { who, what }).unwrap();
    refusal(play)
}

fn act(play: &mut Play, action: impl Into<Action>) -> Option<Refusal> {
    play.act(action).unwrap();
    refusal(play)
}

fn refusal(play: &mut Play) -> Option<Refusal> {
    play.step().iter().find_map(|entry| match &entry.what {
        Happening::Refused { why, .. } => Some(why.clone()),
        _ => None,
    })
}

fn owner(play: &Play) -> Option<&str> {
    play.owner("sack").unwrap().map(|owner| play.scene().name(owner))
}

#[test]
fn what_is_thrown_belongs_to_its_thrower_until_it_lies_still() {
    let mut play = start(yard().entity(sack(Ownership::default())));
    assert_eq!(reach(&mut play, "ada"), None);
    let ada = play.scene().find("ada").unwrap();
    let belongs = Some(Refusal::BelongsTo { owner: ada, since: Time::ZERO });
    assert_eq!(reach(&mut play, "bob"), belongs);
    assert_eq!(act(&mut play, Action::grab("sack", "bob")), belongs);
    assert_eq!(act(&mut play, Action::throw("ada", [0.0, 4.0, 0.0])), None);
    // In the air.
    assert_eq!(reach(&mut play, "bob"), belongs);
    assert_eq!(owner(&play), Some("ada"));
    let entries = play_until(&mut play, 4.0);
    assert_eq!(words(&play, &entries), ["settle sack ada", "disown sack ada rest"]);
    assert_eq!((reach(&mut play, "bob"), owner(&play)), (None, Some("bob")));
}

#[test]
fn of_two_who_reach_at_one_instant_the_first_gets_it() {
    for pair in [["ada", "bob"], ["bob", "ada"]] {
        let mut play = start(yard().entity(sack(Ownership::default())));
        let what = play.scene().find("sack").unwrap();
        for who in pair.map(|name| play.scene().find(name).unwrap()) {
            play.schedule(Time::ZERO, Input::Grab { who, what }).unwrap();
        }
        play.step();
        assert_eq!(owner(&play), Some(pair[0]));
    }
}

#[test]
fn what_is_given_stays_theirs_until_it_is_taken_away() {
    let ownership = Ownership { by: Owners::Host, keep: None, ..Ownership::default() };
    let mut play = start(yard().entity(sack(ownership)));
    assert_eq!(reach(&mut play, "ada"), Some(Refusal::NotGiven));
    assert_eq!(act(&mut play, Action::disown("sack")), Some(Refusal::NotOwned));
    assert_eq!(act(&mut play, Action::own("sack", "ada")), None);
    assert_eq!(reach(&mut play, "ada"), None);
    assert_eq!(act(&mut play, Action::drop("ada")), None);
    play_until(&mut play, 3.0);
    // At rest, and hers all the same.
    assert_eq!(owner(&play), Some("ada"));
    assert!(matches!(reach(&mut play, "bob"), Some(Refusal::BelongsTo { .. })));
    play.act(Action::own("sack", "bob")).unwrap();
    let entries = play.step().to_vec();
    assert_eq!(words(&play, &entries), ["disown sack ada action", "own sack bob"]);
    assert_eq!(act(&mut play, Action::disown("sack")), None);
    assert_eq!(owner(&play), None);
}

#[test]
fn a_team_hands_its_things_on_and_keeps_others_from_them() {
    let carry = Carry { snatch: true, reach: 9.0, ..Carry::default() };
    let ownership = Ownership { by: Owners::team(["red"]), keep: None, ..Ownership::default() };
    let mut play = start(yard().entity(sack(ownership).carry(carry)));
    assert_eq!(reach(&mut play, "cay"), Some(Refusal::InNoTeam));
    assert_eq!(reach(&mut play, "ada"), None);
    let [who, what] = ["bob", "sack"].map(|name| play.scene().find(name).unwrap());
    play.schedule(play.now(), Input::Grab { who, what }).unwrap();
    let entries = play.step().to_vec();
    let handed = ["drop sack ada", "disown sack ada action", "own sack bob", "grab sack bob"];
    assert_eq!(words(&play, &entries), handed);
    // Once in another team, one has nothing to say about it.
    play.act(Action::untag("ada", "red")).unwrap();
    assert_eq!(reach(&mut play, "ada"), Some(Refusal::InNoTeam));
}

#[test]
fn whoever_brings_something_out_owns_it() {
    let kind = Kind::new("boat")
        .stock(2)
        .body(ball(0.3))
        .carry(Carry::default())
        .ownership(Ownership { by: Owners::Creator, keep: None, ..Ownership::default() });
    let lever = Entity::new("lever").at([0.0, 1.0, -1.0]).prompt(Prompt::default());
    let launch = Reaction::on(Trigger::accept("lever")).then(Action::spawn("boat", "on"));
    let mut play = start(yard().kind(kind).entity(lever).reaction(launch));
    let [ada, lever] = ["ada", "lever"].map(|name| play.scene().find(name).unwrap());
    play.schedule(Time::from_secs(0.1), Input::Interact { who: ada, with: lever }).unwrap();
    play_until(&mut play, 0.2);
    let boat = play.scene().ids().find(|it| play.owner(*it).unwrap().is_some()).unwrap();
    assert_eq!(play.owner(boat).unwrap(), Some(ada));
    assert_eq!(play.scene().kinds_of(boat).next().map(Kind::name), Some("boat"));
    play.remove(ada).unwrap();
    let entries = play.step().to_vec();
    assert!(words(&play, &entries).iter().any(|it| it.starts_with("disown boat")));
    assert_eq!(play.owner(boat).unwrap(), None);
}

#[test]
fn time_gives_back_what_is_not_in_use() {
    let ownership = Ownership { keep: Some(1.0), ..Ownership::default() };
    let mut play = start(yard().entity(sack(ownership)));
    play.act(Action::grab("sack", "ada")).unwrap();
    play_until(&mut play, 2.5);
    assert_eq!(owner(&play), Some("ada"), "who holds a thing may keep it");
    play.act(Action::drop("ada")).unwrap();
    let entries = play_until(&mut play, 6.0);
    let last = words(&play, &entries).pop();
    assert_eq!(last.as_deref(), Some("disown sack ada rest"), "at rest before its time is over");
    // What an action gave is kept for its time alone.
    play.act(Action::own("sack", "bob")).unwrap();
    let entries = play_until(&mut play, 9.0);
    let told = support::story(&play, &entries);
    let expected = [("own sack bob".to_owned(), 6.0), ("disown sack bob expire".to_owned(), 7.0)];
    assert_eq!(told, expected);
}

#[test]
fn what_may_be_kept_for_no_time_is_kept_as_long_as_it_is_held() {
    let ownership = Ownership { keep: Some(0.0), ..Ownership::default() };
    let mut play = start(yard().entity(sack(ownership)));
    play.act(Action::grab("sack", "ada")).unwrap();
    play_until(&mut play, 1.0);
    assert_eq!(owner(&play), Some("ada"));
    play.act(Action::drop("ada")).unwrap();
    let entries = play.step().to_vec();
    assert_eq!(words(&play, &entries), ["drop sack ada", "disown sack ada expire"]);
}

#[test]
fn who_goes_and_what_goes_leave_nothing_behind() {
    for gone in ["ada", "sack"] {
        for how in [Action::remove(gone), Action::reset(gone)] {
            let mut play = start(yard().entity(sack(Ownership::default())));
            play.act(Action::grab("sack", "ada")).unwrap();
            play.step();
            play.act(how).unwrap();
            let entries = play.step().to_vec();
            assert!(words(&play, &entries).contains(&"disown sack ada remove".to_owned()));
            assert_eq!(owner(&play), None);
        }
    }
}

/// A chest with a handle of its own, and a player with a camera who looks at it.
fn chest(ownership: Ownership) -> SceneBuilder {
    let drag = Some(Drag::Plane([0.0, 0.0, 1.0]));
    let camera = Camera { viewport: [800.0, 600.0], ..Camera::default() };
    yard()
        .entity(
            Entity::new("sack")
                .at([0.0, 1.0, -5.0])
                .solid(Shape::Box { size: [1.0; 3] })
                .pointer(Pointer { drag, ..Pointer::default() })
                .ownership(ownership),
        )
        .entity(
            Entity::new("handle")
                .parent("sack")
                .prompt(Prompt { reach: 20.0, ..Prompt::default() }),
        )
        .entity(Entity::new("eye").at([0.0, 1.0, 5.0]).parent("ada").camera(camera))
}

#[test]
fn what_belongs_to_somebody_and_its_parts_are_used_by_nobody_else() {
    let mut play = start(chest(Ownership::default()));
    let [bob, ada, handle] = ["bob", "ada", "handle"].map(|name| play.scene().find(name).unwrap());
    play.act(Action::own("sack", "ada")).unwrap();
    play.step();
    let mut notebook = Notebook::all();
    play.advance_witnessed(Time::from_secs(0.5), &mut notebook);
    play.act(Action::teleport("bob", "bob")).unwrap();
    play.advance_witnessed(Time::from_secs(0.6), &mut notebook);
    let stopped = notebook.stopped(handle, bob).unwrap();
    assert_eq!(stopped.gate, Gate::Own);
    assert_eq!(stopped.evidence, Evidence::BelongsTo { owner: ada, since: Time::ZERO });
    assert_eq!(stopped.reason(play.scene()), "it belongs to `ada` since 0.000 s");
    let offered = |play: &Play, who| play.offers(who).unwrap().len();
    assert_eq!((offered(&play, ada), offered(&play, bob)), (1, 0));
    // Given back, it is offered at that very moment.
    play.act(Action::disown("sack")).unwrap();
    let entries = play.step().to_vec();
    assert!(words(&play, &entries).contains(&"offer handle bob admit".to_owned()));
    assert_eq!((offered(&play, ada), offered(&play, bob)), (1, 1));
}

#[test]
fn what_is_dragged_belongs_to_whoever_drags_it() {
    let point = |play: &mut Play, at: [f64; 2], button| {
        let who = play.scene().find("ada").unwrap();
        play.schedule(play.now(), Input::Point { who, at: Spot::from(at), button }).unwrap();
        let until = play.now().secs() + 0.05;
        let entries = play_until(play, until);
        let told = words(play, &entries).into_iter().filter(|it| !it.contains("handle"));
        told.collect::<Vec<_>>()
    };
    let middle = [400.0, 300.0];
    let mut play = start(chest(Ownership::default()));
    point(&mut play, middle, Button::Stays);
    let down = point(&mut play, middle, Button::Down);
    assert_eq!(down, ["own sack ada", "pointer_down sack ada"]);
    assert_eq!(point(&mut play, [420.0, 300.0], Button::Stays), ["drag sack ada"]);
    let up = point(&mut play, [420.0, 300.0], Button::Up);
    assert_eq!(up.last().map(String::as_str), Some("disown sack ada rest"));

    // What only actions give is not dragged by whom it was not given to, but clicked.
    let mut play = start(chest(Ownership { by: Owners::Host, keep: None, ..Ownership::default() }));
    point(&mut play, middle, Button::Stays);
    assert_eq!(point(&mut play, middle, Button::Down), ["pointer_down sack ada"]);
    assert_eq!(point(&mut play, [401.0, 300.0], Button::Stays), [""; 0]);
    let up = ["pointer_up sack ada", "click sack ada"];
    assert_eq!(point(&mut play, [401.0, 300.0], Button::Up), up);
}

#[test]
fn mistakes_in_a_description_are_named() {
    let wrong = |ownership: Ownership| {
        let errors: SceneErrors = yard().entity(sack(ownership)).build().unwrap_err();
        let errors: Vec<String> = errors.iter().map(ToString::to_string).collect();
        errors.join("; ")
    };
    let none = wrong(Ownership { by: Owners::Team(vec![]), keep: None, ..Ownership::default() });
    assert!(none.contains("there is no team that may own it"), "{none}");
    let unknown =
        wrong(Ownership { by: Owners::team(["rde"]), keep: None, ..Ownership::default() });
    assert!(unknown.contains("rde"), "{unknown}");
    let never = wrong(Ownership { keep: Some(-1.0), ..Ownership::default() });
    assert!(never.contains("a number of seconds from 0 to 3000000"), "{never}");
    let act = yard()
        .entity(Entity::new("post"))
        .reaction(Reaction::on(Trigger::Start).then(Action::own("post", "ada")));
    assert!(act.build().unwrap_err().to_string().contains("an `ownership`"));
}

proptest! {
    /// Against a plain model: who may get a thing depends on nothing but who has it and how it may be had.
    #[test]
    fn who_owns_what_is_as_a_plain_table_says(
        rule in 0_usize..3,
        deeds in prop::collection::vec((0_u8..4, 0_usize..3), 1..30),
        cut in 0_usize..30,
    ) {
        let by = [Owners::First, Owners::Host, Owners::team(["red"])][rule].clone();
        let names = ["ada", "bob", "cay"];
        let mut play = start(yard().entity(sack(Ownership { by, keep: None, ..Ownership::default() })));
        let mut own: Option<usize> = None;
        let mut held = false;
        let red = |who: usize| who < 2;
        for (step, (deed, who)) in deeds.into_iter().enumerate() {
            if step == cut {
                let state = play.state().clone();
                play.restore(state).unwrap();
            }
            let may_give = match rule {
                0 => own.is_none_or(|own| own == who),
                1 => true,
                _ => red(who) && own.is_none_or(red),
            };
            match deed {
                0 => {
                    let asked = own == Some(who) || rule != 1;
                    let done = reach(&mut play, names[who]).is_none();
                    let may = asked && may_give && !held;
                    prop_assert_eq!(done, may);
                    if may {
                        (own, held) = (Some(who), true);
                    }
                }
                1 => {
                    let done = act(&mut play, Action::own("sack", names[who])).is_none();
                    prop_assert_eq!(done, may_give);
                    if may_give {
                        held &= own == Some(who);
                        own = Some(who);
                    }
                }
                2 => {
                    let done = act(&mut play, Action::disown("sack")).is_none();
                    prop_assert_eq!(done, own.is_some());
                    (own, held) = (None, false);
                }
                _ => {
                    // Nobody reaches rest within a tick.
                    let done = act(&mut play, Action::drop(names[who])).is_none();
                    prop_assert_eq!(done, held && own == Some(who));
                    held &= !done;
                }
            }
            prop_assert_eq!(owner(&play), own.map(|own| names[own]));
        }
    }
}
