//! What is wrong with a script as it stands there is found when it is loaded, at its place.

use std::path::Path;

use hazuro_format::Source;
use hazuro_script::read_scene_with;

use crate::scripts::{YARD, load};

#[test]
fn what_is_wrong_with_a_script_is_found_when_it_is_loaded() {
    let call = "[[reaction]]\non = { start = true }\ndo = [{ call = \"rnig\" }]";
    for (scene, script, expected) in [
        ("", "fn f( { }", "yard.rhai:1:7"),
        ("", "fn f() { sya(\"x\"); }", "yard.rhai:1:10 there is no function named `sya`"),
        ("", "fn f() {\n  let a = b; }", "yard.rhai:2:11 "),
        ("", "on(#{ enter: \"paad\" }, |e| 1);", "yard.rhai:1:1 there is no entity named `paad`"),
        ("", "on(#{ entr: \"pad\" }, |e| 1);", "yard.rhai:1:1 there is no key `entr` here"),
        ("", "on(#{ enter: \"ball\" }, |e| 1);", "yard.rhai:1:1 `ball` has no zone"),
        ("", "say(\"x\");", "yard.rhai:1:1 this can only be done while playing"),
        ("", "import \"x\" as y;", "yard.rhai:1:1 "),
        ("", "fn f(e) { e.who.switch }", "yard.rhai:1:17 `switch` is a word of the language"),
        ("", "fn f() { let default = 1; }", "yard.rhai:1:14 `default` is a word of the language"),
        ("", "fn f() { eval(\"1\"); }", "yard.rhai:1:10 "),
        ("", "fn f(event) {\n  let a = event.whoo;\n}", "yard.rhai:2:17 an event has no `whoo`"),
        ("", "fn f(event) { event.who.hight }", "yard.rhai:1:25 an entity has no `hight`"),
        ("", "fn f() { act(#{ enable: \"paad\" }); }", "yard.rhai:1:26 there is no entity named"),
        ("", "fn f() { act(#{ enabel: \"pad\" }); }", "yard.rhai:1:14 there is no key `enabel`"),
        ("", "fn f(event) { act(#{ enabel: event.on }); }", "yard.rhai:1:19 there is no key"),
        // Names stand there though the rest is worked out later.
        (
            "",
            "fn f(event) { act(#{ move: event.on, to: \"paad\" }); }",
            "yard.rhai:1:43 there is no entity named `paad`",
        ),
        (
            "",
            "fn f(event) { let s = 2.0; act(#{ move: \"paad\", to: \"home\", over: s }); }",
            "yard.rhai:1:42 there is no entity named `paad`",
        ),
        ("", "fn f() { count(\"rnigs\") }", "yard.rhai:1:16 there is no count named `rnigs`"),
        ("", "fn f() { if flag(\"open\") { } }", "yard.rhai:1:18 there is no flag named `open`"),
        (
            "",
            "fn f(event) { event.who.stat.helth }",
            "yard.rhai:1:30 there is no stat named `helth`",
        ),
        ("", "fn f() { entity(\"pad\").count.x }", "yard.rhai:1:30 there is no count named `x`"),
        ("", "fn f() { entity(\"pad\").hight }", "yard.rhai:1:24 an entity has no `hight`"),
        ("", "fn f() { add(\"rings\") }", "yard.rhai:1:10 `add` takes 2 values, and here is 1"),
        (
            "",
            "fn f() { g(1, 2) } fn g(a) { a }",
            "yard.rhai:1:10 `g` takes 1 value, and here are 2",
        ),
        ("", "fn f() { flag() }", "yard.rhai:1:10 `flag` takes 1 or 2 values, and here are 0"),
        (
            "",
            "fn f() { add(\"rings\", 1.5) }",
            "yard.rhai:1:23 `add` takes a whole number here, not",
        ),
        ("", "fn f() { say(3) }", "yard.rhai:1:14 `say` takes a text here, not a whole number"),
        ("", "fn f() { flag(\"a\", \"up\") }", "yard.rhai:1:20 `flag` takes true or false here"),
        (
            "",
            "fn f() { ray([0,0,0], [1,0,0], #{ of: \"solid\" }) }",
            "yard.rhai:1:32 a question has no `solid`",
        ),
        (
            "",
            "fn f(e) { overlap(#{}, e.at, #{ laeyrs: e.on }) }",
            "yard.rhai:1:33 a question has no `laeyrs`",
        ),
        (
            "",
            "fn f() { nearest(\"pad\", 3, #{ without: \"paad\" }) }",
            "yard.rhai:1:28 there is no",
        ),
        ("", "fn f() { nearest(\"pad\", 3, #{ layers: [\"x\"] }) }", "yard.rhai:1:28 "),
        ("", "fn f() { ray(\"pad\", \"paad\") }", "yard.rhai:1:21 there is no entity named"),
        ("", "fn f() { entity(\"paad\") }", "yard.rhai:1:17 there is no entity named `paad`"),
        ("", "fn f() { sleep(1); }", "yard.rhai:1:10 there is no function named `sleep`"),
        (call, "fn ring() { }", "yard.scene.toml:34:16 there is no function named `rnig` to call"),
    ] {
        let found = load(scene, script).expect_err(script);
        let told = format!("{} {}", found[0].place().unwrap(), found[0].message());
        assert!(told.starts_with(expected), "{script}: {told}");
    }
    let missing = |_: &Path| Err(Source::read(Path::new("/no/such.rhai")).unwrap_err());
    let found = read_scene_with(&Source::new("yard.toml", YARD), &missing).unwrap_err();
    assert_eq!(
        (found[0].code().word(), found[0].place().unwrap()),
        ("no-such-file", "yard.toml:3:12".into())
    );
}
