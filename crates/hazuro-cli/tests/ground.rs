//! What the command does with files that are none of its business, with outputs that cannot be written,
//! with texts that would do something to a terminal, and when it is interrupted.

mod support;

use std::path::Path;
use std::process::{Command, Stdio};
use std::time::{Duration, Instant};

use support::{Folder, demo, hazuro, stderr, stdout};

const YARD: &str = "[[entity]]\nname = \"miller\"\nbody = { sphere = { radius = 0.3 } }\n\
                    [[entity]]\nname = \"pad\"\nzone = { box = [1, 1, 1] }\n";

#[test]
fn a_file_names_only_what_lies_below_its_folder() {
    let folder = Folder::new("outside");
    std::fs::create_dir_all(folder.0.join("scenes")).expect("a folder");
    folder.write("secret.txt", "the secret of the mill\n");
    let named = "[scene]\nscripts = [\"../secret.txt\"]\n".to_owned() + YARD;
    let scene = folder.write("scenes/yard.toml", &named);
    let root = folder.0.display().to_string();
    let output = hazuro(&["check", &scene]);
    assert_eq!(output.status.code(), Some(2));
    let told = stdout(&output);
    assert!(told.contains("lies outside of the folder"), "{told}");
    assert!(told.contains("--root FOLDER") && told.contains("yard.toml:2:12"), "{told}");
    assert!(!told.contains("secret of the mill"), "it is not shown: {told}");
    // If that is meant, the caller allows it; then it is read, and is no script.
    let allowed = stdout(&hazuro(&["check", "--root", &root, &scene]));
    assert!(allowed.contains("bad-script"), "{allowed}");
    // So it is if the folder that holds both is what was named.
    folder.write("scenes/a.playtest.toml", "scene = \"../yard.toml\"\nseconds = 1\n");
    folder.write("yard.toml", YARD);
    let test = folder.0.join("scenes/a.playtest.toml").display().to_string();
    assert_eq!(hazuro(&["test", &test]).status.code(), Some(2));
    assert_eq!(hazuro(&["test", &root]).status.code(), Some(0));
    // Nor does `--update` write elsewhere.
    let log = "scene = \"yard.toml\"\nseconds = 1\nlog = \"../../taken.log\"\n";
    folder.write("scenes/yard.toml", YARD);
    let test = folder.write("scenes/b.playtest.toml", log);
    let output = hazuro(&["test", "--update", &test]);
    assert_eq!(output.status.code(), Some(2), "{}", stdout(&output));
    assert!(stderr(&output).contains("outside"), "{}", stderr(&output));
    assert!(!folder.0.join("../taken.log").exists());
}

#[test]
#[cfg(unix)]
fn a_link_out_of_the_folder_is_no_way_out() {
    let folder = Folder::new("link");
    std::fs::create_dir_all(folder.0.join("scenes")).expect("a folder");
    let secret = folder.write("secret.rhai", "fn f() {}\n");
    std::os::unix::fs::symlink(&secret, folder.0.join("scenes/mill.rhai")).expect("a link");
    let named = "[scene]\nscripts = [\"mill.rhai\"]\n".to_owned() + YARD;
    let scene = folder.write("scenes/yard.toml", &named);
    assert!(stdout(&hazuro(&["check", &scene])).contains("outside"));
}

#[test]
#[cfg(unix)]
fn a_pipe_is_an_error_and_never_a_wait() {
    let folder = Folder::new("pipe");
    let pipe = folder.0.join("pipe.toml").display().to_string();
    assert!(Command::new("mkfifo").arg(&pipe).status().expect("it runs").success());
    let named = folder.write("a.playtest.toml", "scene = \"pipe.toml\"\nseconds = 1\n");
    let scene = folder.write("yard.toml", "[scene]\nscripts = [\"pipe.toml\"]\n");
    for file in [pipe.as_str(), "/dev/zero", &named, &scene] {
        let output = hazuro(&["run", file]);
        assert_eq!(output.status.code(), Some(2), "{file}");
        assert!(stderr(&output).contains("a pipe, a device"), "{}", stderr(&output));
    }
}

#[test]
fn what_is_written_is_complete_and_never_over_what_is_read() {
    let folder = Folder::new("write");
    let scene = folder.write("yard.toml", YARD);
    let output = hazuro(&["run", &scene, "--log", &scene]);
    assert_eq!(output.status.code(), Some(2));
    assert!(stderr(&output).contains("is read by"), "{}", stderr(&output));
    assert_eq!(std::fs::read_to_string(&scene).expect("it is there"), YARD);
    let picture = folder.0.join("nowhere/a.svg").display().to_string();
    assert_eq!(hazuro(&["draw", &scene, "-o", &picture]).status.code(), Some(2));
    let here = folder.0.display().to_string();
    assert_eq!(hazuro(&["run", &scene, "--log", &here]).status.code(), Some(2), "a folder");
    // What is there is replaced, and nothing is left beside it.
    let log = folder.write("yard.log", "what was there before\n");
    assert_eq!(hazuro(&["run", &scene, "--log", &log]).status.code(), Some(0));
    let text = std::fs::read_to_string(&log).expect("it is there");
    assert!(text.starts_with("{\"hazuro_log\":1") && !text.contains("before"));
    let left: Vec<_> = std::fs::read_dir(&folder.0)
        .expect("a folder")
        .map(|entry| entry.expect("an entry").file_name().into_string().expect("UTF-8"))
        .collect();
    assert_eq!(left.len(), 2, "{left:?}");
}

#[test]
#[cfg(target_os = "linux")]
fn a_full_disk_is_an_error_and_a_reader_that_has_gone_is_none() {
    let full = std::fs::OpenOptions::new().write(true).open("/dev/full").expect("it is there");
    for arguments in [&["demo"][..], &["run", &demo("gate.playtest.toml"), "--log", "-"]] {
        let mut command = Command::new(env!("CARGO_BIN_EXE_hazuro"));
        let output = command.args(arguments).stdout(full.try_clone().expect("one more")).output();
        let output = output.expect("it runs");
        assert_eq!(output.status.code(), Some(2));
        assert!(stderr(&output).contains("No space left"), "{}", stderr(&output));
    }
    // As with other commands, the signal ends it, and nothing is said.
    let line = format!("{} demo --all | head -1", env!("CARGO_BIN_EXE_hazuro"));
    let output = Command::new("sh").args(["-c", &line]).output().expect("a shell");
    assert!(output.status.success() && stderr(&output).is_empty(), "{}", stderr(&output));
    assert_eq!(stdout(&output).lines().count(), 1);
}

#[test]
fn texts_do_nothing_to_the_terminal() {
    let folder = Folder::new("escapes");
    let scene = folder.write(
        "yard.toml",
        "[scene]\nname = \"\\u001b]0;owned\\u0007mill\"\n[[reaction]]\non = { start = true }\n\
         if = \"time >= 0 # \\u202e\"\ndo = [{ say = \"k\" }]\n[texts]\nk = \"\\u001b[31mred\\u001b[2J\"\n",
    );
    let plain = folder.write(
        "plain.toml",
        "[scene]\nname = \"\\u001b]0;owned\\u0007mill\"\n[[reaction]]\non = { start = true }\n\
         do = [{ say = \"k\" }]\n[texts]\nk = \"\\u001b[31mred\\u001b[2J\"\n",
    );
    let raw = folder.write("raw.toml", "[[entity]]\nname = \"a\u{1b}[31mb\u{202e}c\u{9b}d\"\n");
    for arguments in [
        &["run", scene.as_str()][..],
        &["run", &plain],
        &["check", &plain],
        &["check", &raw],
        &["check", &raw, "--format", "json"],
        &["scout", &plain],
        &["run", "\u{1b}[31mnowhere.toml"],
    ] {
        let output = hazuro(arguments);
        let told = stdout(&output) + &stderr(&output);
        let harmful =
            |c: char| (c.is_control() && c != '\n') || ('\u{202a}'..='\u{202e}').contains(&c);
        assert!(!told.contains(harmful), "{arguments:?}: {told:?}");
    }
    let told = stdout(&hazuro(&["run", &plain]));
    assert!(told.contains("“\\u{1b}[31mred\\u{1b}[2J”"), "{told}");
}

/// Starts a command, waits until it has begun, and interrupts it.
#[cfg(unix)]
fn interrupted(arguments: &[&str], signal: &str) -> std::process::Output {
    let mut command = Command::new(env!("CARGO_BIN_EXE_hazuro"));
    let child = command.args(arguments).stdout(Stdio::piped()).stderr(Stdio::piped()).spawn();
    let child = child.expect("it runs");
    std::thread::sleep(Duration::from_millis(700));
    let kill = format!("kill -{signal} {}", child.id());
    Command::new("sh").args(["-c", &kill]).status().expect("a shell");
    let start = Instant::now();
    let output = child.wait_with_output().expect("it ends");
    assert!(start.elapsed() < Duration::from_secs(20), "it stops soon");
    output
}

/// A day in which something happens all the time.
#[cfg(unix)]
fn long_day(folder: &Folder) -> String {
    let again =
        "[[reaction]]\non = { start = true }\nevery = 0.01\ndo = [{ count = \"n\", add = 1 }]\n";
    folder.write("yard.toml", &(YARD.to_owned() + again));
    folder.write(
        "day.playtest.toml",
        "scene = \"yard.toml\"\nseconds = 80000\nexpect = [{ event = \"enter\", on = \"pad\" }]\n",
    )
}

#[test]
#[cfg(unix)]
fn an_interrupted_run_keeps_its_log() {
    let folder = Folder::new("interrupted-run");
    let day = long_day(&folder);
    let log = folder.0.join("day.log").display().to_string();
    for (signal, code) in [("INT", 130), ("TERM", 143)] {
        let output = interrupted(&["run", &day, "--log", &log], signal);
        assert_eq!(output.status.code(), Some(code), "{}", stderr(&output));
        assert!(stderr(&output).contains("cut short at "), "{}", stderr(&output));
        let text = std::fs::read_to_string(&log).expect("a log");
        assert!(text.lines().last().expect("a line").ends_with("\"cut_short\":true}"), "{text}");
        for line in text.lines() {
            serde_json::from_str::<serde_json::Value>(line).expect("each line is whole");
        }
    }
}

#[test]
#[cfg(unix)]
fn interrupted_tests_and_scouts_tell_what_there_is() {
    let folder = Folder::new("interrupted-test");
    let day = long_day(&folder);
    let junit = folder.0.join("junit.xml").display().to_string();
    let output = interrupted(&["test", &day, "--junit", &junit], "INT");
    assert_eq!(output.status.code(), Some(130), "{}", stdout(&output));
    let told = stdout(&output);
    assert!(told.contains("cut short at ") && told.contains("cut short in file 1 of 1"), "{told}");
    assert!(std::fs::read_to_string(&junit).expect("results").contains("cut short at "));
    let output = interrupted(&["scout", &demo("tidemill.scene.toml"), "--minutes", "1000"], "INT");
    assert_eq!(output.status.code(), Some(130));
    assert!(stdout(&output).contains("s played; cut short"), "{}", stdout(&output));
}

#[test]
fn lists_within_lists_end_a_function_and_not_the_program() {
    let folder = Folder::new("nested");
    folder.write(
        "n.rhai",
        "fn lists() { let a = []; for i in 0..9000 { a = [a]; } act(#{ move: \"pad\", by: a }); }\n\
         fn maps() { let a = #{}; for i in 0..9000 { a = #{ x: a }; } act(a); }\n",
    );
    let calls =
        "[[reaction]]\non = { start = true }\ndo = [{ call = \"lists\" }, { call = \"maps\" }]\n";
    let scene =
        folder.write("yard.toml", &format!("[scene]\nscripts = [\"n.rhai\"]\n{YARD}{calls}"));
    let output = hazuro(&["run", &scene]);
    assert_eq!(output.status.code(), Some(2), "{}", stderr(&output));
    let told = stdout(&output);
    assert_eq!(told.matches("it failed").count(), 2, "{told}");
    assert!(Path::new(&scene).exists());
}

#[test]
fn deep_and_long_input_is_told_of_in_a_few_lines() {
    let folder = Folder::new("deep");
    for (name, text, expected) in [
        ("deep.json", "[".repeat(200_000), "deep.json:1:65"),
        ("maps.json", "{\"a\":".repeat(200_000), "more than 64 deep"),
        ("deep.toml", format!("a = {}", "[".repeat(200_000)), "more than 64 deep"),
        ("null.json", "{\"entity\": null}".into(), "this is nothing, but should be"),
        ("huge.json", "{\"scene\": {\"rate\": 1e300}}".into(), "`1e300`"),
        ("rate.toml", "[scene]\nrate = -1\n".into(), "a whole number from 0 to 4294967295"),
    ] {
        let file = folder.write(name, &text);
        let told = stdout(&hazuro(&["check", &file]));
        assert!(told.contains(expected), "{name}: {told}");
        assert!(told.len() < 3000 && !told.contains("u32") && !told.contains("f64"), "{told}");
    }
}
