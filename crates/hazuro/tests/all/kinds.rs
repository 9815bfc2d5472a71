//! Kinds that build on one another and entities of several, and the children that both give.

use crate::support;

use std::sync::Arc;

use hazuro::geometry::{Pose, Shape};
use hazuro::scene::{
    Action, Admit, Entity, Facts, Fault, Grant, Kind, Pickup, Reaction, SceneBuilder, Selector,
    SlotSort, SlotValue, Stat, Trigger, Zone,
};
use hazuro::{Entry, Play, Scene};
use proptest::prelude::*;
use support::{at, ball, cube, play_until, words};

/// What a kind or an entity may say, each as a number that tells who said it, or not at all.
#[derive(Clone, Debug, Default)]
#[expect(clippy::struct_excessive_bools, reason = "each is said or not by itself")]
struct Says {
    kinds: Vec<usize>,
    tag: bool,
    layer: bool,
    visible: bool,
    zone: bool,
    stats: [bool; 2],
    slot: bool,
    child: bool,
    child_at: bool,
}

fn says(kinds: impl Strategy<Value = Vec<usize>>) -> impl Strategy<Value = Says> {
    (kinds, any::<[bool; 9]>()).prop_map(
        |(kinds, [tag, layer, visible, zone, a, b, slot, child, child_at])| Says {
            kinds,
            tag,
            layer,
            visible,
            zone,
            stats: [a, b],
            slot,
            child,
            child_at,
        },
    )
}

/// Five kinds, of which each builds on some of those after it, and somebody of some of them.
fn family() -> impl Strategy<Value = Vec<Says>> {
    let below =
        |from: usize| proptest::collection::vec(from..6, if from < 6 { 0..3 } else { 0..1 });
    let kinds = (1..6).map(move |from| {
        says(below(from + 1).prop_map(|mut it| {
            it.retain(|kind| *kind < 6);
            it
        }))
        .boxed()
    });
    let entity = says(proptest::collection::vec(1usize..6, 0..4)).boxed();
    [entity].into_iter().chain(kinds).collect::<Vec<_>>()
}

/// As [`Says`] says, in the words of a builder; `number` tells who it was.
macro_rules! described {
    ($owner:expr, $says:expr, $number:expr) => {{
        let (mut owner, says, number) = ($owner, $says, $number as f64);
        for kind in &says.kinds {
            owner = owner.kind(format!("k{kind}"));
        }
        if says.tag {
            owner = owner.tags([format!("t{}", $number)]);
        }
        if says.layer {
            owner = owner.layers([format!("l{}", $number)]);
        }
        if says.visible {
            owner = owner.visible($number % 2 == 0);
        }
        if says.zone {
            owner = owner.zone(cube(number + 1.0));
        }
        for (name, _) in ["a", "b"].into_iter().zip(says.stats).filter(|(_, says)| *says) {
            owner = owner.stat(name, Stat { start: number, least: 0.0, most: 9.0 });
        }
        if says.slot {
            owner = owner.slot("n", number);
        }
        if says.child {
            let child = Entity::new("c").tags([format!("c{}", $number)]).slot("m", number);
            owner = owner.child(if says.child_at { child.at([number, 0.0, 0.0]) } else { child });
        }
        owner
    }};
}

/// Whose words count, as a plain model has it: written down at length, and of what is there twice the last.
fn order(all: &[Says], who: usize, into: &mut Vec<usize>) {
    into.push(who);
    for kind in &all[who].kinds {
        order(all, *kind, into);
    }
}

proptest! {
    #[test]
    fn what_is_given_is_what_a_plain_model_of_the_order_says(all in family()) {
        let mut scene = Scene::builder("Yard");
        for (number, says) in all.iter().enumerate().skip(1) {
            scene = scene.kind(described!(Kind::new(format!("k{number}")), says, number));
        }
        let scene = scene.entity(described!(Entity::new("it"), &all[0], 0_usize)).build().unwrap();
        let it = scene.find("it").unwrap();

        let mut line = Vec::new();
        order(&all, 0, &mut line);
        let last = |number: &usize| line.iter().rposition(|it| it == number);
        let line: Vec<usize> =
            line.iter().enumerate().filter(|(at, it)| last(it) == Some(*at)).map(|(_, it)| *it).collect();
        let first = |says: fn(&Says) -> bool| line.iter().copied().find(|number| says(&all[*number]));

        let kinds: Vec<String> = line[1..].iter().map(|it| format!("k{it}")).collect();
        prop_assert!(scene.kinds_of(it).map(Kind::name).eq(kinds.iter().map(String::as_str)));
        let mut tags: Vec<String> =
            line.iter().filter(|it| all[**it].tag).map(|it| format!("t{it}")).collect();
        tags.sort();
        let mut has: Vec<&str> = scene.tags_of(it).collect();
        has.sort_unstable();
        prop_assert_eq!(has, tags);
        let layer = first(|it| it.layer).map_or("default".into(), |it| format!("l{it}"));
        prop_assert!(scene.layer_names(scene.layers_of(it)).eq([layer.as_str()]));
        let play = Play::new(Arc::new(scene));
        let scene = play.scene();
        prop_assert_eq!(play.facts().is_visible(it), first(|it| it.visible).is_none_or(|it| it % 2 == 0));
        let size = |zone: &Zone| zone.shape().clone();
        let zone = first(|it| it.zone).map(|it| cube(it as f64 + 1.0));
        prop_assert_eq!(scene.zone_of(it).map(size), zone.as_ref().map(size));
        for (name, start) in [("a", first(|it| it.stats[0])), ("b", first(|it| it.stats[1]))] {
            prop_assert_eq!(play.facts().stat(it, name), start.map(|it| it as f64));
        }
        let slot = first(|it| it.slot).map(|it| SlotValue::Number(it as f64));
        prop_assert_eq!(scene.slot(it, "n").cloned(), slot);
        let child = scene.find("it/c");
        prop_assert_eq!(child.is_some(), first(|it| it.child).is_some());
        if let Some(child) = child {
            let place = first(|it| it.child && it.child_at).unwrap_or(0);
            prop_assert_eq!(scene.pose(child).position.x, place as f64);
            let tags = line.iter().filter(|it| all[**it].child).count();
            prop_assert_eq!(scene.tags_of(child).count(), tags);
            prop_assert_eq!(scene.parent(child), Some(it));
            // What is said of a child counts in the same order as what is said of who has it.
            let said = first(|it| it.child).map(|it| SlotValue::Number(it as f64));
            prop_assert_eq!(scene.slot(child, "m").cloned(), said);
        }
    }
}

/// Whether something and all above it are on.
fn is_on(play: &Play, name: &str) -> bool {
    play.facts().is_enabled(play.scene().find(name).unwrap())
}

/// Gates of two leaves, each with its own pad before it.
fn gates() -> SceneBuilder {
    let leaf = |name: &str, x: f64| Entity::new(name).kind("leaf").at([x, 1.0, 0.0]);
    let pad = Entity::new("pad").at([0.0, 0.0, 3.0]).zone(cube(1.0)).admit(Admit::tags(["guest"]));
    Scene::builder("Gates")
        .kind(Kind::new("leaf").solid(Shape::Box { size: [1.0, 2.0, 0.2] }))
        .kind(
            Kind::new("gate")
                .slot("far", 1.0)
                .child(leaf("left", -0.5))
                .child(leaf("right", 0.5))
                .child(pad),
        )
        .entity(Entity::new("guest").tags(["guest"]).at([0.0, 0.0, 9.0]).body(ball(0.2)))
        .entity(Entity::new("north").kind("gate"))
        .entity(Entity::new("south").kind("gate").slot("far", 2.0).at([10.0, 0.0, 0.0]).child(
            Entity::new("left").at([-0.7, 1.0, 0.0]).child(
                Entity::new("knob").at([0.0, 0.0, 0.2]).solid(Shape::Sphere { radius: 0.1 }),
            ),
        ))
}

#[test]
fn children_have_names_below_their_parents_and_are_in_slots() {
    let scene = gates().build().unwrap();
    let names: Vec<&str> = scene.described().map(|id| scene.name(id)).collect();
    let children = [
        "north/left",
        "north/pad",
        "north/right",
        "south/left",
        "south/pad",
        "south/right",
        "south/left/knob",
    ];
    assert_eq!(names, [&["guest", "north", "south"][..], &children].concat());
    let id = |name: &str| scene.find(name).unwrap();
    assert_eq!(scene.pose(id("south/left/knob")).position.to_array(), [9.3, 1.0, 0.2]);
    assert_eq!(scene.pose(id("south/right")).position.to_array(), [10.5, 1.0, 0.0]);
    let of = |selector: &str| scene.select(&Selector::from(selector)).unwrap();
    assert_eq!(of("kind:gate/left"), [id("north/left"), id("south/left")]);
    assert_eq!(of("kind:leaf").len(), 4);
    // A child sees what its parent has in its slots, and its parent.
    let slot = |of: &str, name: &str| scene.slot(id(of), name).cloned();
    assert_eq!(slot("north", "left"), Some(SlotValue::Entity(id("north/left"))));
    assert_eq!(slot("south/pad", "right"), Some(SlotValue::Entity(id("south/right"))));
    assert_eq!(slot("south/left/knob", "parent"), Some(SlotValue::Entity(id("south/left"))));
    assert_eq!(slot("south/left/knob", "far"), Some(SlotValue::Number(2.0)));
    assert_eq!(slot("north", "parent"), None);
    assert_eq!(
        scene.field(id("south/left/knob")).to_string(),
        "entity[2].children.left.children.knob"
    );
    assert_eq!(scene.field(id("south/pad")).to_string(), "entity[2]");
}

#[test]
fn one_reaction_moves_the_leaves_of_whichever_gate_it_is() {
    let open = Reaction::on(Trigger::enter("kind:gate/pad"))
        .then(Action::move_by("on.slot.left", [-1.0, 0.0, 0.0]).over(0.5))
        .then(Action::disable("on.slot.parent"));
    let mut play = Play::new(gates().reaction(open).build().unwrap());
    play.place("guest", [10.0, 0.0, 3.0]).unwrap();
    play_until(&mut play, 1.0);
    assert_eq!(at(&play, "south/left").x, 8.3);
    assert_eq!(at(&play, "north/left").x, -0.5);
    // Switched with their parent, but not by themselves.
    assert!(!is_on(&play, "south/pad") && is_on(&play, "north/pad"));
    play.place("guest", [0.0, 9.0, 0.0]).unwrap();
    play.act(Action::enable("south")).unwrap();
    play.act(Action::reset("south")).unwrap();
    play_until(&mut play, 1.1);
    assert_eq!(at(&play, "south/left").x, 9.3);
}

#[test]
fn a_kind_is_for_whatever_has_a_tag_or_a_name() {
    let scene = gates()
        .kind(Kind::new("bright").for_all("tag:guest").for_all("no*h").highlight(true))
        .kind(Kind::new("marked").for_all("*/left").tags(["marked"]))
        .build()
        .unwrap();
    let of = |selector: &str| -> Vec<&str> {
        scene.select(&Selector::from(selector)).unwrap().iter().map(|id| scene.name(*id)).collect()
    };
    assert_eq!(of("kind:bright"), ["guest", "north"]);
    assert_eq!(of("tag:marked"), ["north/left", "south/left"]);
}

/// A creek with fish, each with a glow above it.
fn creek() -> Scene {
    let glow = Entity::new("glow").at([0.0, 1.0, 0.0]).zone(cube(1.0));
    Scene::builder("Creek")
        .kind(Kind::new("fish").body(ball(0.1)).child(glow).stock(2))
        .entity(Entity::new("guest").at([5.0, 1.0, 0.0]).body(ball(0.2)))
        .build()
        .unwrap()
}

#[test]
fn what_comes_out_of_stock_brings_its_children() {
    let mut play = Play::new(creek());
    play.spawn("fish", [2.0, 0.0, 0.0]).unwrap();
    play_until(&mut play, 0.1);
    let above = at(&play, "fish#1/glow") - at(&play, "fish#1");
    assert!((above.y - 1.0).abs() < 1e-12, "{above}");
    // What its child has become is forgotten once it comes out anew.
    play.act(Action::move_by("fish#1/glow", [0.0, 2.0, 0.0])).unwrap();
    play.act(Action::disable("fish#1/glow")).unwrap();
    play.remove("fish#1").unwrap();
    play.step();
    let fish = play.spawn("fish", [5.0, 0.0, 0.0]).unwrap();
    let entries = play_until(&mut play, 0.2);
    assert_eq!(play.scene().name(fish), "fish#1");
    let glow = play.scene().find("fish#1/glow").unwrap();
    assert_eq!(play.pose(glow).unwrap().position, Pose::from([5.0, 1.0, 0.0]).position);
    let entered = "enter fish#1/glow guest appear";
    assert!(words(&play, &entries).iter().any(|it| it == entered), "{:?}", words(&play, &entries));
    // And of more than there were, too.
    play.spawn("fish", [5.0, 0.0, 0.0]).unwrap();
    let third = play.spawn("fish", [6.0, 0.0, 0.0]).unwrap();
    play_until(&mut play, 0.3);
    assert_eq!(play.scene().name(third), "fish#3");
    assert_eq!(at(&play, "fish#3/glow").to_array(), [6.0, 1.0, 0.0]);
    play.state().assert_consistent(play.scene());

    #[cfg(feature = "serde")]
    {
        let saved = play.save();
        let mut later = Play::new(creek());
        later.load(&saved).unwrap();
        assert_eq!(at(&later, "fish#3/glow").to_array(), [6.0, 1.0, 0.0]);
    }
}

#[test]
fn children_come_in_with_what_is_added_and_go_with_it() {
    let mut play = Play::new(gates().build().unwrap());
    play_until(&mut play, 0.1);
    play.place("guest", [0.0, 0.0, -7.0]).unwrap();
    let added = play
        .add_all([Entity::new("west").kind("gate").at([0.0, 0.0, -10.0]), Entity::new("sign")])
        .unwrap();
    let entries = play_until(&mut play, 0.2);
    assert_eq!(added.iter().map(|it| play.scene().name(*it)).collect::<Vec<_>>(), ["west", "sign"]);
    let entered = |entries: &[Entry]| {
        let words = words(&play, entries);
        assert!(words.contains(&"enter west/pad guest appear".into()), "{words:?}");
    };
    entered(&entries);
    play.remove("west").unwrap();
    let entries = play_until(&mut play, 0.3);
    assert!(words(&play, &entries).contains(&"exit west/pad guest remove".into()));
    // The same again, and as it was described.
    let again = Entity::new("west").kind("gate").at([0.0, 0.0, -10.0]);
    assert_eq!(play.add(again).unwrap(), added[0]);
    let entries = play_until(&mut play, 0.4);
    assert!(words(&play, &entries).contains(&"enter west/pad guest appear".into()));
    let taken = play.add(Entity::new("west/pad")).unwrap_err().to_string();
    assert!(
        taken.starts_with("entity[0].name: there is already an entity named `west/pad`"),
        "{taken}"
    );
}

#[test]
fn what_cannot_be_is_told() {
    let yard = || Scene::builder("Yard");
    let told = |scene: SceneBuilder| {
        let errors = scene.build().unwrap_err();
        let first = errors.iter().next().unwrap().clone();
        (first.to_string(), first.fault)
    };
    let chain = |last: usize| {
        let kinds = (0..last).map(|it| Kind::new(format!("k{it}")).kind(format!("k{}", it + 1)));
        kinds.chain([Kind::new(format!("k{last}"))]).fold(yard(), SceneBuilder::kind)
    };
    assert!(chain(63).build().is_ok());
    for (scene, expected) in [
        (
            yard().kind(Kind::new("a").kind("b")).kind(Kind::new("b").kind("a")),
            "kind.a.kind: these kinds build on each other, in a circle: a → b → a",
        ),
        (chain(64), "kind.k0.kind: more than 64 kinds count for `k0`"),
        (yard().kind(Kind::new("a").kind("c")), "kind.a.kind: there is no kind named `c`"),
        (
            yard().kind(Kind::new("a").for_all("kind:b")),
            "kind.a.for: a kind is for a tag, for names or for all, not for `kind:b`",
        ),
        (yard().kind(Kind::new("a").for_all("tag:x")), "kind.a.for: there is no tag named `x`"),
        (yard().kind(Kind::new("a/b")), "kind.a/b: `a/b` cannot be a name"),
        (
            yard().entity(Entity::new("a/b")),
            "entity[0].name: `a/b` cannot be a name: `/` is between what has a child and the child",
        ),
        (
            yard().entity(Entity::new("a").child(Entity::new("b")).child(Entity::new("b"))),
            "entity[0].children.b.name: there is already an entity named `a/b`",
        ),
        (
            yard().kind(Kind::new("a").child(Entity::new("parent"))),
            "kind.a.children.parent: `parent` cannot be a name: `slot.parent` is the parent",
        ),
        (
            yard().entity(Entity::new("a").child(Entity::new("b").parent("a"))),
            "entity[0].children.b: `b` has a parent already: what it is described with",
        ),
        (
            yard().entity(Entity::new("a").slot("b", 1.0).child(Entity::new("b"))),
            "entity[0].children.b: `b` is both a child and a slot",
        ),
        (
            yard().kind(Kind::new("a").child(Entity::new("b").kind("a"))),
            "children of kinds nest more than 8 deep",
        ),
        (
            yard()
                .kind(Kind::new("a").for_all("tag:t").child(Entity::new("b").tags(["t"])))
                .entity(Entity::new("c").tags(["t"])),
            "entity[0]: children of kinds nest more than 8 deep",
        ),
        (
            yard().kind(Kind::new("a").child(Entity::new("b").tags([""]))),
            "kind.a.children.b.tags[0]: `` cannot be a name: it is empty",
        ),
        (
            yard()
                .kind(Kind::new("a").needs_slot("x", SlotSort::Number))
                .kind(Kind::new("b").kind("a").slot("x", true)),
            "kind.b.slots.x: the slot `x` is for a number, and this is true or false",
        ),
    ] {
        let (message, _) = told(scene);
        assert!(message.contains(expected), "{message}\nfor {expected}");
    }
    let (_, fault) = told(yard().kind(Kind::new("a").kind("a")));
    assert!(matches!(fault, Fault::KindCircle { names } if names == ["a", "a"]));
}

#[test]
fn fifty_pickups_are_collected_and_come_back_each_with_its_own() {
    let grant = Grant::default().count("tokens", 1);
    let token = Entity::new("token").zone(cube(0.4)).pickup(Pickup {
        grant,
        back_after: Some(1.0),
        ..Pickup::default()
    });
    let token = token.child(Entity::new("glow").at([0.0, 0.3, 0.0]).zone(cube(0.2)));
    let stand =
        Entity::new("stand").at([0.0, -0.7, 0.0]).solid(Shape::Box { size: [0.3, 1.0, 0.3] });
    let mut scene = Scene::builder("Fair").kind(Kind::new("place").child(token).child(stand));
    for number in 0..50 {
        scene = scene.entity(Entity::new(format!("p{number}")).kind("place").at([
            f64::from(number),
            0.0,
            0.0,
        ]));
    }
    let scene = scene.entity(Entity::new("ada").at([-3.0, 0.0, 0.0]).body(ball(0.1)));
    let mut play = Play::new(scene.build().unwrap());
    play.drive("ada", [24.5, 0.0, 0.0]).unwrap();
    play_until(&mut play, 0.5);
    assert_eq!(play.count("tokens"), 25);
    let on = |name: String| is_on(&play, &name);
    for number in 0..50 {
        let collected = number < 25;
        assert_eq!(on(format!("p{number}/token/glow")), !collected, "{number}");
        assert!(on(format!("p{number}/stand")));
    }
    play_until(&mut play, 2.0);
    assert!((0..50).all(|number| is_on(&play, &format!("p{number}/token/glow"))));
}
