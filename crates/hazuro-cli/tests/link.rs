//! `hazuro host` and `hazuro join`: two players on one desk, and those who may not join.

mod support;

use std::io::{Read, Write};
use std::net::TcpStream;

use support::demo;
use support::hosting::{host, listening, started};

const YARD: &str = r#"
[scene]
name = "Yard"

[kind.person]
body = { capsule = { radius = 0.3, height = 1.8 }, walk = 3.0 }
player = true

[[entity]]
name = "floor"
at = [0, -0.5, 0]
solid = { box = [40, 1, 40] }

[[entity]]
name = "ada"
kind = "person"

[[entity]]
name = "bob"
kind = "person"
at = [2, 0, 0]

[[entity]]
name = "sack"
at = [1, 0.35, -1]
body = { box = [0.5, 0.7, 0.4] }
carry = { reach = 4 }
ownership = {}

[[entity]]
name = "bell"
at = [0, 1, -2]
interact = { reach = 9 }

[[reaction]]
on = { interact = "bell" }
do = [{ say = "rung", to = "who" }]

[texts]
rung = "{who} has rung it."
"#;

/// A folder with the yard in it, and its file.
fn yard(name: &str) -> (std::path::PathBuf, String) {
    let folder = std::env::temp_dir().join(format!("hazuro_{name}_{}", std::process::id()));
    std::fs::create_dir_all(&folder).unwrap();
    let file = folder.join("yard.scene.toml");
    std::fs::write(&file, YARD).unwrap();
    (folder, file.to_str().unwrap().to_owned())
}

/// Joins, types, and gives what was printed and how it ended.
fn join(arguments: &[&str], typed: &str) -> (String, String, Option<i32>) {
    let mut child = started(&[&["join"], arguments].concat());
    child.stdin.take().unwrap().write_all(typed.as_bytes()).unwrap();
    let ended = child.wait_with_output().unwrap();
    let text = |bytes: Vec<u8>| String::from_utf8(bytes).unwrap();
    (text(ended.stdout), text(ended.stderr), ended.status.code())
}

#[test]
fn two_on_one_desk_see_one_another_and_whose_the_sack_is() {
    let (folder, file) = yard("desk");
    let (mut host, address) = host(&file);
    let as_player =
        |name: &'static str| [address.clone(), file.clone(), "--player".into(), name.into()];
    let arguments = |name: &'static str| -> Vec<String> {
        as_player(name).into_iter().chain(["--token".into(), "tide".into()]).collect()
    };
    let (ada, bob) = (arguments("ada"), arguments("bob"));
    let first = std::thread::spawn(move || {
        let ada: Vec<&str> = ada.iter().map(String::as_str).collect();
        join(&ada, "wait 1\ngrab sack\nwait 4\n")
    });
    let bob: Vec<&str> = bob.iter().map(String::as_str).collect();
    let typed = "wait 3\nowner sack\nuse bell\nfly\nwait 1\ngrab purse\nwhere bob\n";
    let (out, err, code) = join(&bob, typed);
    assert_eq!(code, Some(0), "{err}");
    assert!(out.starts_with("Yard: you are bob\n"), "{out}");
    assert!(out.contains("own           sack      ada"), "{out}");
    assert!(out.contains("sack belongs to ada"), "{out}");
    assert!(out.contains("\"bob has rung it.\""), "{out}");
    assert!(out.contains("bob is at [2.00, 0.00, 0.00]"), "{out}");
    assert!(err.contains("`fly` means nothing here; there are walk NAME"), "{err}");
    assert!(err.contains("there is no entity named `purse`"), "{err}");
    let (out, err, code) = first.join().unwrap();
    assert_eq!(code, Some(0), "{err}");
    assert!(out.contains("grab          sack      ada") && !out.contains("rung"), "{out}");
    host.kill().unwrap();
    host.wait().unwrap();
    std::fs::remove_dir_all(folder).unwrap();
}

#[test]
fn who_may_not_join_and_what_cannot_be_hosted_is_told() {
    let (folder, file) = yard("denied");
    let (mut host, address) = host(&file);
    let (_, err, code) = join(&[&address, &file, "--token", "tied"], "");
    assert_eq!(code, Some(2));
    assert!(err.contains("the host lets nobody in: the host asks for another token"), "{err}");
    let (_, err, code) = join(&[&address, &file, "--token", "tide", "--player", "eve"], "");
    assert_eq!(code, Some(2));
    assert!(err.contains("there is no player named `eve`"), "{err}");
    host.kill().unwrap();
    host.wait().unwrap();
    let (_, err, code) = join(&[&address, &file], "");
    assert_eq!(code, Some(2));
    assert!(err.contains(&format!("there is no host at {address}")), "{err}");

    let empty = folder.join("empty.scene.toml");
    std::fs::write(&empty, "[[entity]]\nname = \"post\"\n").unwrap();
    let ended = support::hazuro(&["host", empty.to_str().unwrap()]);
    let err = String::from_utf8(ended.stderr).unwrap();
    assert_eq!(ended.status.code(), Some(2));
    assert!(err.contains("nobody here can be played"), "{err}");
    std::fs::remove_dir_all(folder).unwrap();
}

#[test]
fn without_the_scene_a_player_is_told_what_they_may_know() {
    let (mut host, address) = host(&demo("quay.scene.toml"));
    let ada = [address.clone(), "--token".into(), "tide".into(), "--player".into(), "ada".into()];
    let first = std::thread::spawn(move || {
        let ada: Vec<&str> = ada.iter().map(String::as_str).collect();
        join(&ada, "walk -4.2 1\nwait 2\ngrab rye\nwait 4\nowner letter_ada\n")
    });
    let bob = [&address, "--token", "tide", "--player", "bob"];
    let typed =
        "walk -4.5 2.2\nwait 4\nowner rye\ngrab rye\nowner letter_ada\nwalk letter_ada\nwait 1\n";
    let (out, err, code) = join(&bob, typed);
    assert_eq!(code, Some(0), "{err}");
    assert!(out.starts_with("You are bob\n"), "{out}");
    assert!(out.contains("rye belongs to ada"), "{out}");
    assert!(err.contains("rye is not taken: it belongs to ada since"), "{err}");
    assert!(err.contains("nothing was told of `letter_ada`"), "{err}");
    assert!(
        err.contains("the host has not done it: there is no entity named `letter_ada`"),
        "{err}"
    );
    assert!(!out.contains("letter_ada"), "{out}");
    let (out, err, code) = first.join().unwrap();
    assert_eq!(code, Some(0), "{err}");
    assert!(out.contains("own           letter_ada    ada"), "{out}");
    assert!(out.contains("letter_ada belongs to ada") && !out.contains("letter_bob"), "{out}");

    // With the scene, which would hold the secrets of all, nobody gets in.
    let (_, err, code) = join(&[&address, &demo("quay.scene.toml"), "--token", "tide"], "");
    assert_eq!(code, Some(2));
    assert!(
        err.contains("the scene has secrets") && err.contains("leave the scene file out"),
        "{err}"
    );

    // The page on the same port.
    let mut stream = TcpStream::connect(&address).unwrap();
    stream.write_all(b"GET / HTTP/1.1\r\nHost: quay\r\n\r\n").unwrap();
    let mut page = String::new();
    stream.read_to_string(&mut page).unwrap();
    assert!(page.starts_with("HTTP/1.1 200 OK\r\n") && page.contains("<h1>Quay</h1>"));
    assert!(
        !page.contains("letter_ada") && !page.contains("tide\""),
        "neither secrets nor the token"
    );
    host.kill().unwrap();
    host.wait().unwrap();
}

#[test]
fn what_was_played_is_recorded_as_a_playtest_that_passes() {
    let (folder, _) = yard("recorded");
    // Of a playtest its scene is hosted; what its tape would do is nobody's doing here.
    let playtest = folder.join("yard.playtest.toml");
    let tape = "tape = [{ at = 0, who = \"ada\", halt = true }]\n";
    std::fs::write(&playtest, format!("scene = \"yard.scene.toml\"\nseconds = 9\n{tape}")).unwrap();
    let file = playtest.to_str().unwrap();
    let recorded = folder.join("recorded.playtest.toml");
    let recorded = recorded.to_str().unwrap();
    let mut host = started(&[
        "host",
        file,
        "--address",
        "127.0.0.1:0",
        "--seconds",
        "4",
        "--record",
        recorded,
    ]);
    let address = listening(&mut host);
    let (_, err, code) =
        join(&[&address, "--player", "bob"], "grab sack\nwait 1\nuse bell\nwait 0.5\n");
    assert_eq!(code, Some(0), "{err}");
    assert!(host.wait().unwrap().success());
    let text = std::fs::read_to_string(recorded).unwrap();
    for line in [
        "scene = \"yard.scene.toml\"",
        "{ at = 0, who = \"ada\", leave = true },",
        "who = \"bob\", grab = \"sack\" },",
        "{ event = \"interact\", on = \"bell\", who = \"bob\", times = 1 },",
    ] {
        assert!(text.contains(line), "{line} in {text}");
    }
    assert!(!text.contains("halt"), "{text}");
    let tested = support::hazuro(&["test", recorded]);
    assert!(tested.status.success(), "{}", support::stdout(&tested));
    std::fs::remove_dir_all(folder).unwrap();
}
