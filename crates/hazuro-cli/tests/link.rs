//! `hazuro host` and `hazuro join`: two players on one desk, and those who may not join.

use std::io::{BufRead, BufReader, Read, Write};
use std::process::{Child, Command, Stdio};

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

fn hazuro(arguments: &[&str]) -> Command {
    let mut command = Command::new(env!("CARGO_BIN_EXE_hazuro"));
    command.args(arguments).stdin(Stdio::piped()).stdout(Stdio::piped()).stderr(Stdio::piped());
    command
}

/// A host, and where it listens.
fn host(file: &str) -> (Child, String) {
    let asked = ["host", file, "--address", "127.0.0.1:0", "--token", "tide"];
    let mut child = hazuro(&asked).spawn().unwrap();
    let mut line = String::new();
    let mut out = BufReader::new(child.stdout.take().unwrap());
    out.read_line(&mut line).unwrap();
    // What it prints later is read so that it never waits for it.
    std::thread::spawn(move || out.read_to_string(&mut String::new()));
    let address = line.split("listening at ").nth(1).unwrap().split(' ').next().unwrap();
    assert!(line.trim_end().ends_with("for ada, bob"), "{line}");
    (child, address.to_owned())
}

/// Joins, types, and gives what was printed and how it ended.
fn join(arguments: &[&str], typed: &str) -> (String, String, Option<i32>) {
    let mut child = hazuro(&[&["join"], arguments].concat()).spawn().unwrap();
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
    let ended = hazuro(&["host", empty.to_str().unwrap()]).output().unwrap();
    let err = String::from_utf8(ended.stderr).unwrap();
    assert_eq!(ended.status.code(), Some(2));
    assert!(err.contains("nobody here can be played"), "{err}");
    std::fs::remove_dir_all(folder).unwrap();
}
