//! What is done to a text, whatever it holds: read, and played for a moment if it can be. Shared by the
//! fuzz targets in `fuzz/` and by the ordinary test that does it to their seeds and to what they found.

use std::sync::{Arc, OnceLock};

use hazuro::{Play, Scene, Time};
use hazuro_format::{Finding, Source};
use hazuro_link::{Room, Rules};
use hazuro_script::{Scripts, read_scene_with};
use hazuro_verify::{Watched, differences_of_logs, read_playtest};

type Body = fn(&str);

/// The folder of the seeds and found texts of each body, and the body.
pub const BODIES: [(&str, Body); 7] = [
    ("scene_toml", scene_toml),
    ("scene_json", scene_json),
    ("playtest", playtest),
    ("expression", expression),
    ("script", script),
    ("log", log),
    ("messages", messages),
];

/// A scene that playtests, expressions and scripts are about.
const YARD: &str = include_str!("yard.toml");

fn yard() -> Arc<Scene> {
    static SCENE: OnceLock<Arc<Scene>> = OnceLock::new();
    let read = || read("yard.toml", YARD).expect("it is a scene").0.into();
    SCENE.get_or_init(read).clone()
}

fn read(name: &str, text: &str) -> Result<(Scene, Scripts), Vec<Finding>> {
    let no_file = |path: &std::path::Path| Ok(Source::new(path.to_string_lossy(), ""));
    read_scene_with(&Source::new(name, text), &no_file)
}

/// Each finding can be shown, and does nothing to what shows it.
fn shown(findings: &[Finding]) {
    for finding in findings {
        let text = finding.render(100, false);
        assert!(!text.contains(|c: char| c.is_control() && c != '\n'), "{text:?}");
    }
}

fn played(mut play: Play, seconds: f64) {
    // Large scenes take long, which is no fault.
    if play.scene().len() <= 200 {
        play.advance(Time::from_secs(seconds));
        play.state().assert_consistent(play.scene());
    }
}

fn scene(name: &str, text: &str) {
    match read(name, text) {
        Ok((scene, _)) => {
            let written = hazuro_format::write_scene(&scene);
            let again = read("again.toml", &written);
            assert!(again.is_ok_and(|(again, _)| again == scene), "what is written is read again");
            played(Play::new(scene), 0.1);
        }
        Err(findings) => shown(&findings),
    }
}

/// A scene in TOML.
pub fn scene_toml(text: &str) {
    scene("scene.toml", text);
}

/// A scene in JSON.
pub fn scene_json(text: &str) {
    scene("scene.json", text);
}

/// A playtest of the yard.
pub fn playtest(text: &str) {
    match read_playtest(&Source::new("a.playtest.toml", text), yard()) {
        Ok(playtest) => played(playtest.play(), playtest.length().secs().min(0.5)),
        Err(findings) => shown(&findings),
    }
}

/// An expression about the yard.
pub fn expression(text: &str) {
    match Watched::new(text, &yard()) {
        Ok(watched) => drop(watched.value(&Play::new(yard()))),
        Err(finding) => shown(&[finding]),
    }
}

/// A script of the yard, of which each function is called.
pub fn script(text: &str) {
    match Scripts::compile(vec![Source::new("yard.rhai", text)], &yard()) {
        Ok(scripts) => {
            let mut play = Play::new(yard());
            let _ = scripts.attach(&mut play);
            for function in scripts.functions() {
                let _ = play.act(hazuro::scene::Action::call(function));
            }
            played(play, 0.05);
        }
        Err(findings) => shown(&findings),
    }
}

/// Two logs that are held against each other.
pub fn log(text: &str) {
    let half = (0..=text.len() / 2).rev().find(|at| text.is_char_boundary(*at)).unwrap_or(0);
    let (one, other) = text.split_at(half);
    drop(differences_of_logs(one, other));
    drop(differences_of_logs(text, text));
}

/// The bytes that a line of hexadecimal digits stands for, if it is one.
fn bytes(line: &str) -> Option<Vec<u8>> {
    let digits: Vec<u32> = line.chars().map(|digit| digit.to_digit(16)).collect::<Option<_>>()?;
    (!digits.is_empty()).then(|| {
        digits.chunks(2).map(|two| two.iter().fold(0, |sum, it| sum * 16 + *it as u8)).collect()
    })
}

/// Messages to a host, a line each: as they are, or as bytes in hexadecimal digits. A line begins anew where
/// the host has closed it.
pub fn messages(text: &str) {
    let mut room = Room::new(Play::new(yard()), Rules::default());
    let mut line = room.open(true);
    for message in text.lines().take(64) {
        if !room.is_open(line) {
            line = room.open(message.len() % 2 == 0);
        }
        match bytes(message) {
            Some(bytes) => room.receive(line, &bytes),
            None => room.receive(line, message.as_bytes()),
        }
        room.step();
        room.outgoing().for_each(drop);
    }
    for _ in 0..12 {
        room.step();
    }
    room.play().state().assert_consistent(room.play().scene());
}
