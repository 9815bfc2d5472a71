//! Scripts: the same as reactions and Rust handlers, bounded, and checked when they are loaded.

use std::path::Path;

use hazuro::scene::{Action, Condition, Facts, Grant, Trigger};
use hazuro::{Entry, Happening, Play, Step, Time};
use hazuro_format::{Finding, Level, Source, write_log};
use hazuro_script::{locate_problem, read_scene_with};

/// A yard in which a ball goes in and out of a pad, four times.
pub const YARD: &str = r#"
[scene]
scripts = ["yard.rhai"]
counts = { tokens = 0, rings = 0 }

[[entity]]
name = "ball"
at = [-5, 0, 0]
body = { sphere = { radius = 0.5 } }
stats = { health = { start = 10, max = 10 } }

[[entity]]
name = "pad"
zone = { box = [2, 2, 2], inside_every = 0.25 }

[[entity]]
name = "gate"
tags = ["seen"]
at = [0, 0, -9]

[[entity]]
name = "open"
at = [0, 3, -9]

[effect.fast]
stats = { health = { add = -2 } }
seconds = 0.4

[texts]
paid = "{who} has paid {count.tokens}."
asks = "More."
"#;

pub fn load(scene: &str, script: &str) -> Result<Play, Vec<Finding>> {
    let source = Source::new("yard.scene.toml", format!("{YARD}{scene}"));
    let file = |path: &Path| Ok(Source::new(path.display().to_string(), script));
    let (scene, scripts) = read_scene_with(&source, &file)?;
    let mut play = Play::new(scene);
    scripts.attach(&mut play).unwrap();
    Ok(play)
}

fn play_out(play: &mut Play) -> Vec<Entry> {
    for turn in 0..8 {
        let x = if turn % 2 == 0 { 5.0 } else { -5.0 };
        let (ball, start) = (play.scene().find("ball").unwrap(), f64::from(turn));
        let until = Time::from_secs(start + 1.0);
        let input = hazuro::Input::Drive { who: ball, to: [x, 0.0, 0.0].into(), until };
        play.schedule(Time::from_secs(start), input).unwrap();
    }
    play.advance(Time::from_secs(10.0)).to_vec()
}

/// The whole log, but for who did what.
fn log(play: &Play, entries: &[Entry]) -> String {
    let mut log = Vec::new();
    write_log(&mut log, play, entries, Level::All).unwrap();
    let lines = String::from_utf8(log).unwrap();
    let without = |line: &str| line.split(r#","by":"#).next().unwrap().to_owned();
    lines.lines().map(without).collect::<Vec<_>>().join("\n")
}

fn same(name: &str, reactions: &str, script: &str, handlers: impl FnOnce(&mut Play)) {
    let mut all = [load(reactions, "").unwrap(), load("", script).unwrap(), load("", "").unwrap()];
    handlers(&mut all[2]);
    let [by_reactions, by_script, by_handlers] = all.each_mut().map(|play| {
        let entries = play_out(play);
        log(play, &entries)
    });
    assert!(by_reactions.lines().count() > 16, "{name}: {by_reactions}");
    for (one, other) in by_reactions.lines().zip(by_script.lines()) {
        assert_eq!(one, other, "{name}: reactions and script");
    }
    assert_eq!(by_reactions, by_script, "{name}: reactions and script");
    assert_eq!(by_reactions, by_handlers, "{name}: reactions and handlers");
}

#[test]
fn a_gate_is_the_same_in_all_three_ways() {
    same(
        "gate",
        r#"
[[reaction]]
on = { enter = "pad", first = true }
do = [{ move = "gate", to = "open", over = 0.8, ease = "ease-in-out" }, { cue = "opens" }]
[[reaction]]
on = { exit = "pad", last = true }
do = [{ move = "gate", to = "home", over = 1.2 }]
"#,
        r#"
on(#{ enter: "pad", first: true }, |event| {
    act(#{ move: "gate", to: "open", over: 0.8, ease: "ease-in-out" });
    cue("opens");
});
on(#{ exit: "pad", last: true }, |event| act(#{ move: "gate", to: "home", over: 1.2 }));
"#,
        |play| {
            play.on(Trigger::first_enter("pad"), |_, act| {
                let ease = hazuro::motion::Easing::EASE_IN_OUT;
                act.run(Action::move_to("gate", "open").over(0.8).ease(ease))?;
                act.cue("opens");
                Ok::<(), hazuro::scene::Fault>(())
            })
            .unwrap();
            play.on(Trigger::last_exit("pad"), |_, act| {
                act.run(Action::move_home("gate").over(1.2))
            })
            .unwrap();
        },
    );
}

#[test]
fn a_toll_is_the_same_in_all_three_ways() {
    same(
        "toll",
        r#"
[[reaction]]
on = { enter = "pad" }
do = [{ count = "tokens", add = 1 }]
[[reaction]]
on = { enter = "pad" }
if = "count.tokens >= 3"
do = [{ say = "paid" }, { disable = "on" }]
else = [{ say = "asks" }]
"#,
        r#"
on(#{ enter: "pad" }, |event| add("tokens", 1));
on(#{ enter: "pad" }, |event| {
    if count("tokens") >= 3 {
        say("paid");
        act(#{ disable: event.on });
    } else {
        say("asks");
    }
});
"#,
        |play| {
            play.on(Trigger::enter("pad"), |_, act| act.add("tokens", 1)).unwrap();
            play.on(Trigger::enter("pad"), |event, act| {
                if act.count("tokens") >= 3 {
                    act.say("paid");
                    return act.disable(event.on.unwrap());
                }
                act.say("asks");
                Ok(())
            })
            .unwrap();
        },
    );
}

#[test]
fn hurting_and_healing_are_the_same_in_all_three_ways() {
    same(
        "hurt",
        r#"
[[reaction]]
on = { inside = "kind:pad_kind" }
do = [{ hurt = "who", by = 1.5 }]
[[reaction]]
on = { inside = "pad" }
do = [{ hurt = "who", by = 1.5 }]
[[reaction]]
on = { empty = "ball", of = "health" }
do = [{ heal = "who", by = 6 }, { effect = "fast", of = "who" }]
[kind.pad_kind]
zone = { sphere = { radius = 1 } }
[[entity]]
name = "far"
kind = "pad_kind"
at = [0, 0, 90]
"#
        .trim_start(),
        r#"
on(#{ inside: "pad" }, |event| act(#{ hurt: event.who, by: 1.5 }));
on(#{ empty: "ball", of: "health" }, |event| {
    act(#{ heal: "who", by: 6 });
    act(#{ effect: "fast", of: "who" });
});
"#,
        |play| {
            play.on(Trigger::inside("pad"), |_, act| act.run(Action::hurt("who", 1.5))).unwrap();
            play.on(Trigger::empty("ball", "health"), |event, act| {
                act.add_stat(event.who.unwrap(), "health", 6.0)?;
                act.run(Action::effect("fast", "who"))
            })
            .unwrap();
        },
    );
}

#[test]
fn a_chain_of_cues_is_the_same_in_all_three_ways() {
    same(
        "cues",
        r#"
[[reaction]]
on = [{ enter = "pad" }, { exit = "pad" }]
do = [{ cue = "one" }, { tag = "who", with = "seen" }]
[[reaction]]
on = { cue = "one" }
do = [{ count = "rings", add = 1, of = "who" }, { cue = "two" }, { flag = "lit" }]
[[reaction]]
on = { cue = "two" }
if = "flag.lit && who.count.rings > 1"
do = [{ untag = "who", with = "seen" }]
"#,
        r#"
fn first(event) {
    cue("one");
    act(#{ tag: event.who, with: "seen" });
}
on(#{ enter: "pad" }, Fn("first"));
on(#{ exit: "pad" }, Fn("first"));
on(#{ cue: "one" }, |event| {
    act(#{ count: "rings", add: 1, of: "who" });
    cue("two");
    flag("lit", !flag("lit"));
});
on(#{ cue: "two" }, |event| {
    if flag("lit") && event.who.count["rings"] > 1 {
        act(#{ untag: "who", with: "seen" });
    }
});
"#,
        |play| {
            for trigger in [Trigger::enter("pad"), Trigger::exit("pad")] {
                play.on(trigger, |_, act| {
                    act.cue("one");
                    act.run(Action::tag("who", "seen"))
                })
                .unwrap();
            }
            play.on(Trigger::cue("one"), |_, act| {
                act.run(Action::add_to("who", "rings", 1))?;
                act.cue("two");
                let lit = act.facts().flag("lit");
                act.run(Action::flag("lit", !lit))
            })
            .unwrap();
            play.on(Trigger::cue("two"), |event, act| {
                let many = act.facts().count_of(event.who.unwrap(), "rings") > 1;
                if act.facts().flag("lit") && many {
                    act.run(Action::untag("who", "seen"))?;
                }
                Ok::<(), hazuro::scene::Fault>(())
            })
            .unwrap();
        },
    );
}

#[test]
fn a_grant_by_place_is_the_same_in_all_three_ways() {
    same(
        "grant",
        r#"
[[reaction]]
on = { exit = "pad" }
if = "who.x > 0"
do = [{ grant = { counts = { tokens = 2 }, stats = { health = -1 } }, to = "who" }]
"#,
        r#"
on(#{ exit: "pad" }, |event| {
    let hit = ray([0, 9, 0], [0, 0, 0], #{ of: ["zones"] });
    if event.who.x > 0 && hit.entity == entity("pad") {
        act(#{ grant: #{ counts: #{ tokens: 2 }, stats: #{ health: -1.0 } }, to: event.who });
    }
});
"#,
        |play| {
            let right =
                Condition::new("right", |facts| facts.position(facts.who().unwrap()).x > 0.0);
            assert_eq!(right.text(), "right");
            play.on(Trigger::exit("pad"), |event, act| {
                if act.facts().position(event.who.unwrap()).x > 0.0 {
                    let grant = Grant::default().count("tokens", 2).stat("health", -1.0);
                    act.run(Action::grant(grant, "who"))?;
                }
                Ok::<(), hazuro::scene::Fault>(())
            })
            .unwrap();
        },
    );
}

/// What a script that is called at each enter goes wrong with, first, and where.
fn wrong(script: &str) -> (String, String) {
    let reaction = "[[reaction]]\non = { enter = \"pad\" }\ndo = [{ call = \"f\" }]\n\
                    [[reaction]]\non = { exit = \"pad\" }\ndo = [{ count = \"rings\", add = 1 }]";
    let source = Source::new("yard.scene.toml", format!("{YARD}{reaction}"));
    let file = |path: &Path| Ok(Source::new(path.display().to_string(), script));
    let (scene, scripts) = read_scene_with(&source, &file).unwrap();
    let mut play = Play::new(scene);
    scripts.attach(&mut play).unwrap();
    let entries = play_out(&mut play);
    assert_eq!(play.count("rings"), 8, "the play goes on");
    let found =
        entries.iter().find_map(|it| locate_problem(&source, &scripts, play.scene(), it)).unwrap();
    let help = found.help().unwrap_or_default().to_owned();
    assert!(help.contains("enter pad") && help.contains("ball"), "{help}");
    (found.message().to_owned(), found.place().unwrap_or_default())
}

#[test]
fn hostile_scripts_are_bounded_and_located() {
    let endless = wrong("fn f() {\n  let n = 0;\n  loop { n += 1; }\n}");
    assert_eq!(endless.0, "it failed: it takes more than 100000 steps");
    assert!(endless.1.starts_with("yard.rhai:1:4"), "{}", endless.1);
    let deep = wrong("fn g(n) { g(n + 1) }\nfn f(event) { g(1) }");
    assert_eq!(deep.0, "it failed: its functions call too deeply");
    let (long, _) = wrong("fn f() { let s = \"ha\"; loop { s += s; } }");
    assert!(long.contains("too large") || long.contains("exceed"), "{long}");
    let (list, _) = wrong("fn f() { let l = [1]; loop { l += l; } }");
    assert!(list.contains("too large") || list.contains("exceed"), "{list}");
    let missing = wrong("fn f(event) {\n  let e = event;\n  let a = e.whoo;\n}");
    assert_eq!(missing.1, "yard.rhai:3:13");
    let nobody = wrong("fn f(event) {\n  let of = \"paad\";\n  act(#{ enable: of });\n}");
    assert!(nobody.0.contains("no entity named `paad`: did you mean `pad`?"), "{}", nobody.0);
    let odd = wrong("fn f(event) { let keys = #{ enabel: \"pad\" }; act(keys); }");
    assert!(odd.0.contains("there is no key `enabel` here"), "{}", odd.0);
    let (many, _) =
        wrong("fn f(event) { for n in 0..1000 { print(`no ${n}`); } throw \"no more\"; }");
    assert_eq!(many, "it failed: no more");
    let thrown = wrong("fn f(event) { throw \"no more\"; }");
    assert_eq!(thrown.0, "it failed: no more");
    // Itself again, by way of an action.
    let (again, _) = wrong("fn f(event) { act(#{ call: \"f\" }); }");
    assert!(again.contains("too deeply"), "{again}");
}

#[test]
fn scripts_ask_the_four_questions_of_space() {
    let solids = "[[entity]]\nname = \"wall\"\nlayers = [\"stone\"]\nat = [0, 0, 20]\n\
                  solid = { box = [4, 4, 1] }\n\
                  [[entity]]\nname = \"door\"\ntags = [\"wood\"]\nat = [0, 0, 25]\n\
                  solid = { box = [4, 4, 1] }\n\
                  [[reaction]]\non = { start = true }\ndo = [{ call = \"ask\" }]\n";
    let script = r#"
fn ask(event) {
    let wall = entity("wall");
    let hit = ray([0, 0, 10], [0, 0, 40]);
    set("ray", if hit.entity == wall && hit.distance == 9.5 && hit.normal[2] == -1.0 { 1 } else { 0 });
    let wood = ray([0, 0, 10], [0, 0, 40], #{ tag: "wood" });
    set("tag", if wood.entity.name == "door" { 1 } else { 0 });
    let rest = ray([0, 0, 10], wall, #{ without: wall, of: "solids" });
    set("without", if rest == () { 1 } else { 0 });
    let ball = #{ sphere: #{ radius: 0.5 } };
    let swept = sweep(ball, [0, 0, 10], [0, 0, 40], #{ layers: ["stone"] });
    set("sweep", if swept.distance == 9.0 { 1 } else { 0 });
    set("overlap", overlap(#{ box: [1, 1, 20] }, [0, 0, 22], #{ of: ["solids"] }).len());
    let near = nearest("wall", 9.0, #{ of: ["solids"], without: "wall" });
    set("nearest", if near == entity("door") { 1 } else { 0 });
    set("far", if distance(wall, near) == 5.0 { 1 } else { 0 });
}
"#;
    let mut play = load(solids, script).unwrap();
    let entries = play.advance(Time::from_secs(0.1)).to_vec();
    let names = ["ray", "tag", "without", "sweep", "overlap", "nearest", "far"];
    let counts = names.map(|name| (name, play.count(name)));
    let wrong: Vec<_> =
        entries.iter().filter(|it| matches!(&it.what, Happening::Problem { .. })).collect();
    assert!(wrong.is_empty(), "{wrong:?}");
    let expected = [1, 1, 1, 1, 2, 1, 1];
    assert_eq!(counts.map(|(_, count)| count), expected, "{counts:?}");
}

#[test]
fn questions_that_make_no_sense_are_answered_in_words() {
    for (asked, expected) in [
        ("ray([0, 0], [0, 0, 1])", "a place is [x, y, z], or an entity"),
        ("let to = \"paad\"; ray([0, 0, 0], to)", "no entity named `paad`"),
        (
            "let of = #{ layer: \"x\" }; ray([0, 0, 0], [0, 0, 1], of)",
            "`layer` is none of of, layers",
        ),
        (
            "let of = #{ of: \"walls\" }; ray([0, 0, 0], [0, 0, 1], of)",
            "there are solids, bodies and zones",
        ),
        ("let of = #{ layers: [\"x\"] }; ray([0, 0, 0], [0, 0, 1], of)", "no layer named `x`"),
        ("overlap(#{ ball: 1 }, [0, 0, 0])", "there is no key `ball` here"),
        ("overlap(#{}, [0, 0, 0])", "a shape is wanted"),
        ("nearest([0, 0, 0], -1)", "a reach is a number from 0"),
        ("on(#{ enter: \"pad\" }, |e| 1)", "`on` stands outside of functions"),
    ] {
        let (message, _) = wrong(&format!("fn f(event) {{ {asked}; }}"));
        assert!(message.contains(expected), "{asked}: {message}");
    }
}

#[test]
fn everything_can_be_printed() {
    let call = "[[reaction]]\non = { enter = \"pad\" }\ndo = [{ call = \"f\" }]";
    let script = "fn f(event) {\n  for it in [\"a text\", 1.5, true, 'c', [1, \"x\"], #{ a: 1 }, ()] {\n    print(it);\n  }\n\
                  print(\"now \" + 2);\n  print();\n}";
    let mut play = load(call, script).unwrap();
    let printed: Vec<String> = play_out(&mut play)
        .iter()
        .filter_map(|entry| match &entry.what {
            Happening::Printed { text, .. } => Some(text.clone()),
            _ => None,
        })
        .collect();
    let once: Vec<&str> = printed.iter().take(9).map(String::as_str).collect();
    let expected = ["a text", "1.5", "true", "c", "[1, \"x\"]", "#{\"a\": 1}", "", "now 2", ""];
    assert_eq!(once, expected);
}

#[test]
fn what_a_script_does_says_its_line_and_what_it_prints_is_in_the_log() {
    let call = "[[reaction]]\non = { enter = \"pad\" }\ndo = [{ call = \"f\" }]";
    let script = "fn f(event) {\n  print(event.who);\n  print(3 + 4);\n  g();\n}\n\
                  fn g() {\n  act(#{ disable: \"pad\" });\n}";
    let mut play = load(call, script).unwrap();
    let entries = play_out(&mut play);
    let line = |entry: &Entry| match &entry.step {
        Some(Step::Line(place)) => Some((place.file.clone(), place.line)),
        _ => None,
    };
    let told: Vec<(String, Option<(String, usize)>)> = entries
        .iter()
        .filter_map(|entry| match &entry.what {
            Happening::Printed { text, .. } => Some((text.clone(), line(entry))),
            Happening::Did { action: Action::Switch { .. }, .. } => {
                Some(("off".to_owned(), line(entry)))
            }
            _ => None,
        })
        .collect();
    let at = |line| Some(("yard.rhai".to_owned(), line));
    let expected = [("ball", at(2)), ("7", at(3)), ("off", at(7))];
    assert_eq!(told, expected.map(|(word, at)| (word.to_owned(), at)));
}

#[test]
fn what_a_script_raises_need_not_be_declared() {
    let scene = r#"
[[reaction]]
on = { enter = "pad" }
if = "count.steps < 2 && !flag.shut"
do = [{ call = "step" }]
"#;
    let script = r#"
fn step() {
    add("steps", 1);
    if count("steps") == 2 { act(#{ flag: "shut" }); flag("told", true); }
    let own = #{ count: #{ strange: 1 } };
    add("strange", own.count.strange);
    act(#{ grant: #{ counts: #{ coins: 2 }, flags: ["rich"] }, to: "ball" });
    if flag("rich") { print(count("coins")); }
    if flag("told") { print("told"); }
}
"#;
    let mut play = load(scene, script).unwrap();
    play_out(&mut play);
    assert_eq!((play.count("steps"), play.facts().flag("shut")), (2, true));
    let known = hazuro_format::Known::of_scene(play.scene());
    assert!(known.counts.contains("steps") && known.flags.contains("told"));
    assert!(play.count("coins") >= 4 && play.facts().flag("rich"));
}
