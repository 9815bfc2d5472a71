//! Each finding of a check about a playtest: one that has it, and others that do not.

use hazuro_format::{Finding, Source, with_edits};
use hazuro_verify::{check_playtest, read_playtest};

use crate::checks::{PAD, scene};

#[test]
fn playtests_that_end_too_early() {
    let (_, scene) = scene(PAD);
    let playtest = |seconds: f64| {
        let text = format!(
            "scene = \"yard.scene.toml\"\nseconds = {seconds:?}\ntape = [{{ at = 2, who = \"miller\", walk_to = \"pad\" }}]\nexpect = [{{ event = \"enter\", on = \"pad\", after = 3.0 }}]\n"
        );
        read_playtest(&Source::new("yard.playtest.toml", text), scene.clone()).unwrap()
    };
    assert!(check_playtest(&playtest(5.0)).is_empty());
    let places: Vec<String> =
        check_playtest(&playtest(2.0)).iter().filter_map(Finding::place).collect();
    assert_eq!(places, ["yard.playtest.toml:3:9", "yard.playtest.toml:4:11"]);
    assert_eq!(check_playtest(&playtest(2.5)).len(), 1);
}

#[test]
fn what_never_happens_to_something_that_cannot_do_it() {
    let (_, scene) = scene(PAD);
    let check = |expect: &str| {
        let text = format!(
            "scene = \"yard.scene.toml\"\nseconds = 4\ntape = []\nexpect = [\n{{ {expect} }}]\n"
        );
        read_playtest(&Source::new("yard.playtest.toml", text), scene.clone())
            .map(|playtest| check_playtest(&playtest))
    };
    let told = check("event = \"click\", on = \"pad\", never = true").unwrap();
    assert_eq!(told.len(), 1, "{told:?}");
    assert_eq!(
        (told[0].code().word(), told[0].place().as_deref()),
        ("never-anyway", Some("yard.playtest.toml:5:1"))
    );
    assert!(check("event = \"enter\", on = \"pad\", never = true").unwrap().is_empty());
    assert_eq!(check("event = \"click\", on = \"pad\"").unwrap_err()[0].code(), "no-detector");
}

#[test]
fn two_orders_at_one_moment_are_told() {
    let (_, scene) = scene(PAD);
    let check = |second: &str| {
        let text = format!(
            "scene = \"yard.scene.toml\"\nseconds = 4\ntape = [\n\
             {{ at = 1, who = \"miller\", place_at = [0, 0, 0] }},\n\
             {{ at = 1, who = \"miller\", walk_to = \"pad\" }},\n{second}]\n"
        );
        let source = Source::new("p.playtest.toml", text);
        let playtest = read_playtest(&source, scene.clone()).unwrap();
        let found = check_playtest(&playtest);
        found.iter().map(|it| (it.code().word(), it.place().unwrap())).collect::<Vec<_>>()
    };
    assert_eq!(check(""), []);
    assert_eq!(check("{ at = 1, who = \"dog\", drive_to = \"pad\", over = 1 }"), []);
    assert_eq!(check("{ at = 2, who = \"miller\", walk_to = [9, 0, 0] }"), []);
    let twice = check("{ at = 1, who = \"miller\", walk_to = [9, 0, 0] }");
    assert_eq!(twice, [("two-orders", "p.playtest.toml:5:1".to_owned())]);
}

#[test]
fn a_playtest_that_ends_while_something_certainly_waits_is_told() {
    let reaction = "[[reaction]]\non = { cue = \"bell\" }\nafter = 1\ndo = [{ cue = \"ding\" }, { wait = 2 }, { cue = \"dong\" }]\n";
    let found = |seconds: u32, reaction: &str| {
        let (_, scene) = scene(&format!("{PAD}\n{reaction}"));
        let text = format!(
            "scene = \"yard.scene.toml\"\nseconds = {seconds}\ntape = [{{ at = 2, cue = \"bell\" }}]\n"
        );
        let source = Source::new("p.playtest.toml", text);
        let playtest = read_playtest(&source, scene.clone()).unwrap();
        let found = check_playtest(&playtest);
        // Its own edit mends it.
        if let Some(finding) = found.first() {
            let edited = with_edits(source.text(), &finding.edits());
            let edited = Source::new("p.playtest.toml", edited);
            let edited = read_playtest(&edited, scene).unwrap();
            assert!(check_playtest(&edited).is_empty());
        }
        found.iter().map(Finding::line).collect::<Vec<_>>()
    };
    let told = found(5, reaction);
    assert_eq!(told.len(), 1, "{told:?}");
    assert!(told[0].contains("ends-waiting") && told[0].contains("until 5"), "{told:?}");
    assert_eq!(found(6, reaction), [""; 0]);
    // What may be kept, or ended, is not certain to wait.
    for key in ["if = \"count.a < 1\"", "until = { cue = \"hush\" }", "limit = 1", "cooldown = 1"] {
        let added = "[[reaction]]\non = { cue = \"no\" }\ndo = [{ count = \"a\", add = 1 }]\n";
        let other = reaction.replace("after = 1\n", &format!("after = 1\n{key}\n"));
        assert_eq!(found(5, &format!("{added}{other}")), [""; 0], "{key}");
    }
    // A wait after the last action changes nothing.
    let last = reaction.replace(", { cue = \"dong\" }", "");
    assert_eq!(found(4, &last), [""; 0]);
}

#[test]
fn a_tape_takes_by_hand_what_is_within_reach() {
    let scene = "[kind.crate]\nbody = { box = [0.5, 0.5, 0.5] }\ncarry = { reach = 2 }\n\
                 [[entity]]\nname = \"near\"\nkind = \"crate\"\nat = [0, 0.25, 3]\n\
                 [[entity]]\nname = \"far\"\nkind = \"crate\"\nat = [0, 0.25, -3]\n";
    let playtest = |tape: &str, expect: &str| {
        crate::slots::passes(
            &format!("{}{scene}", crate::support::PEOPLE),
            &format!("seconds = 2\ntape = [{tape}]\nexpect = [{expect}]"),
        );
    };
    let miller = "at = 0.5, who = \"miller\"";
    playtest(
        &format!("{{ {miller}, grab = \"near\" }}"),
        "{ event = \"grab\", on = \"near\", who = \"miller\", never = true }",
    );
    playtest(
        &format!("{{ {miller}, grab = \"far\", from_afar = true }}"),
        "{ event = \"grab\", on = \"far\", who = \"miller\", by = 0.6 }",
    );
    let walks = "{ at = 0, who = \"miller\", walk_to = [0, 0, 5.2] }, { at = 1.5, who = \"miller\", grab = \"near\" }";
    playtest(walks, "{ event = \"grab\", on = \"near\", who = \"miller\", by = 1.6 }");
}
