//! Play in the terminal, driven by keys and mouse, without a terminal.

use crate::support;

use std::path::{Path, PathBuf};
use std::time::{Duration, SystemTime};

use hazuro::{Entry, Input, Time};
use hazuro_verify::{Loaded, load, read_playtest, run_playtest};
use hazuro_view::Console;
use hazuro_view::ratatui::buffer::Buffer;
use hazuro_view::ratatui::crossterm::event::{
    Event, KeyCode, KeyEvent, KeyModifiers, MouseButton, MouseEvent, MouseEventKind,
};
use hazuro_view::ratatui::layout::Rect;

use support::{YARD, demo, scene};

pub(crate) fn console(loaded: Loaded) -> Console {
    Console::new(Path::new("yard.toml"), loaded, &[]).unwrap()
}

/// Types keys: letters, or names in angle brackets.
pub(crate) fn keys(console: &mut Console, typed: &str) {
    let mut rest = typed;
    while let Some(letter) = rest.chars().next() {
        let (code, length) = match rest.split_once('>').filter(|_| letter == '{') {
            _ if letter != '{' => (KeyCode::Char(letter), letter.len_utf8()),
            _ => {
                let (name, _) = rest[1..].split_once('}').unwrap();
                let code = match name {
                    "up" => KeyCode::Up,
                    "down" => KeyCode::Down,
                    "left" => KeyCode::Left,
                    "right" => KeyCode::Right,
                    "enter" => KeyCode::Enter,
                    "esc" => KeyCode::Esc,
                    "tab" => KeyCode::Tab,
                    "home" => KeyCode::Home,
                    other => panic!("{other}"),
                };
                (code, name.len() + 2)
            }
        };
        console.take(&Event::Key(KeyEvent::new(code, KeyModifiers::NONE)));
        rest = &rest[length..];
    }
}

/// The lines of the screen.
fn screen(console: &mut Console, width: u16, height: u16) -> Vec<String> {
    let mut buffer = Buffer::empty(Rect::new(0, 0, width, height));
    console.draw(&mut buffer);
    let cells = |row: u16| (0..width).map(move |column| (column, row));
    (0..height).map(|row| cells(row).map(|at| buffer[at].symbol().to_owned()).collect()).collect()
}

pub(crate) fn shows(console: &mut Console, text: &str) -> bool {
    screen(console, 120, 40).iter().any(|line| line.contains(text))
}

/// Where a text stands on the screen.
fn find(console: &mut Console, text: &str) -> (u16, u16) {
    let lines = screen(console, 120, 40);
    let at = lines.iter().enumerate().find_map(|(row, line)| {
        line.find(text).map(|at| (line[..at].chars().count() as u16, row as u16))
    });
    at.unwrap_or_else(|| panic!("{text} in {lines:#?}"))
}

fn mouse(console: &mut Console, kind: MouseEventKind, (column, row): (u16, u16)) {
    let modifiers = KeyModifiers::NONE;
    console.take(&Event::Mouse(MouseEvent { kind, column, row, modifiers }));
}

fn seconds(console: &mut Console, seconds: f64) {
    for _ in 0..(seconds * 30.0).round() as u32 {
        console.pass(1.0 / 30.0);
    }
}

#[test]
fn keys_walk_a_player_into_a_zone_and_the_screen_tells() {
    let mut console = console(scene(YARD));
    assert!(shows(&mut console, "you are miller"));
    assert!(shows(&mut console, "Why pad · miller"));
    assert!(shows(&mut console, "2.700"), "{:#?}", screen(&mut console, 120, 40));
    keys(&mut console, "W");
    seconds(&mut console, 2.0);
    assert!(shows(&mut console, "enter pad miller"));
    assert!(shows(&mut console, "▸ miller has come."));
    assert!(shows(&mut console, "zone: ● detects now"));
    assert!(shows(&mut console, "visits = 1"));
    keys(&mut console, "{tab}");
    assert!(shows(&mut console, "you are mate"));
    keys(&mut console, "d{left}");
    assert!(matches!(console.tape().last(), Some((_, Input::Walk { .. }))));
}

#[test]
fn what_is_offered_is_used_as_long_as_it_takes() {
    let mut console = console(scene(YARD));
    seconds(&mut console, 0.2);
    assert!(shows(&mut console, "◇ [E] Pull (hold 0.5 s)"));
    keys(&mut console, "e");
    seconds(&mut console, 0.3);
    assert!(shows(&mut console, "■■■"));
    seconds(&mut console, 0.5);
    assert!(shows(&mut console, "accept lever miller"));
    keys(&mut console, "{enter}");
    seconds(&mut console, 1.0);
    let accepts = |entry: &&Entry| entry.event().is_some_and(|it| it.kind.word() == "accept");
    assert_eq!(console.entries().iter().filter(accepts).count(), 2);
    keys(&mut console, "x");
    assert!(shows(&mut console, "nothing is offered for it here"));
    keys(&mut console, "G");
    seconds(&mut console, 0.1);
    assert!(shows(&mut console, "holds sack"));
    keys(&mut console, "T");
    seconds(&mut console, 0.1);
    assert!(shows(&mut console, "drop sack miller"));
}

#[test]
fn cues_are_sent_from_a_list_and_detectors_poked_by_hand() {
    let mut console = console(scene(YARD));
    keys(&mut console, "C");
    assert!(shows(&mut console, "Send a cue") && shows(&mut console, "▸ open"));
    keys(&mut console, "{down}");
    assert!(shows(&mut console, "▸ cellar"));
    assert!(console.play().now() < Time::from_secs(0.1), "a list waits");
    keys(&mut console, "{enter}");
    seconds(&mut console, 0.1);
    assert!(shows(&mut console, "cue cellar"));
    // The pad is chosen to begin with; its first event is `enter`.
    keys(&mut console, "K{enter}");
    seconds(&mut console, 0.1);
    assert!(shows(&mut console, "enter pad miller") && shows(&mut console, "visits = 1"));
    keys(&mut console, "N");
    assert!(shows(&mut console, "Why cellar · miller"));
    keys(&mut console, "B");
    assert!(shows(&mut console, "Why pad · miller"));
    keys(&mut console, "C{esc}");
    assert!(!shows(&mut console, "Send a cue"));
}

#[test]
fn the_mouse_clicks_chooses_and_sends() {
    let mut console = console(scene(YARD));
    seconds(&mut console, 0.2);
    let (column, row) = find(&mut console, "cellar");
    mouse(&mut console, MouseEventKind::Moved, (column, row));
    assert!(shows(&mut console, "Why cellar · miller"));
    let bell = find(&mut console, "bell");
    mouse(&mut console, MouseEventKind::Down(MouseButton::Left), (bell.0 - 2, bell.1));
    seconds(&mut console, 0.1);
    assert!(shows(&mut console, "click bell miller"));
    let pad = find(&mut console, "pad");
    mouse(&mut console, MouseEventKind::Down(MouseButton::Right), pad);
    seconds(&mut console, 3.0);
    assert!(shows(&mut console, "enter pad miller"));
    // Beside the map nothing is clicked.
    let before = console.tape().len();
    mouse(&mut console, MouseEventKind::Down(MouseButton::Right), (118, 38));
    assert_eq!(console.tape().len(), before);
}

#[test]
fn time_can_be_stopped_stepped_and_gone_back_in() {
    let mut console = console(scene(YARD));
    keys(&mut console, "W");
    seconds(&mut console, 2.0);
    keys(&mut console, "P");
    seconds(&mut console, 1.0);
    let paused = console.play().now();
    assert!(paused < Time::from_secs(2.1) && shows(&mut console, "❚❚ paused"));
    keys(&mut console, ".");
    assert_eq!((console.play().now() - paused).nanos() / 1_000_000, 16);
    keys(&mut console, ",");
    assert_eq!(console.play().now(), paused);
    // Back over what the pad and the lever told, to just after `enter`, and before it.
    let entered = Time::from_nanos(900_000_002);
    while console.play().now() > entered {
        keys(&mut console, "<");
        assert_eq!(console.play().count("visits"), 1);
    }
    assert_eq!(console.play().now(), entered);
    keys(&mut console, "<");
    assert_eq!(console.play().count("visits"), 0);
    assert!(shows(&mut console, " of 2."), "how far it has been played");
    keys(&mut console, ">");
    assert_eq!(console.play().count("visits"), 1);
    // Back to the start, and another way from there.
    keys(&mut console, "J0.1{enter}");
    assert_eq!(console.play().now(), Time::from_secs(0.1));
    keys(&mut console, "P{right}");
    seconds(&mut console, 2.0);
    assert_eq!(console.play().count("visits"), 0);
    keys(&mut console, "Jx.{enter}");
    assert!(shows(&mut console, "is no time in seconds"));
    keys(&mut console, "]");
    assert!(shows(&mut console, "×2"));
    keys(&mut console, "[[[");
    assert!(shows(&mut console, "×0.25"));
}

#[test]
fn events_are_filtered_and_gone_back_to() {
    let loaded = demo("gate.playtest.toml");
    let mut console = Console::new(Path::new("gate.playtest.toml"), loaded, &[]).unwrap();
    seconds(&mut console, 9.0);
    keys(&mut console, "/sluice_pad{enter}");
    let lines = screen(&mut console, 120, 40).join("\n");
    assert!(lines.contains("enter sluice_pad apprentice") && !lines.contains("spot owl"));
    keys(&mut console, "E{home}{enter}");
    assert_eq!(console.play().now(), Time::from_nanos(2_400_000_001));
    keys(&mut console, "{esc}");
    assert!(shows(&mut console, "spot owl"));
    keys(&mut console, "L");
    assert!(shows(&mut console, "Timeline") && shows(&mut console, "sluice_pad zone"));
    keys(&mut console, "L");
    assert!(!shows(&mut console, "sluice_pad zone"));
}

#[test]
fn every_size_and_every_side_is_drawn() {
    let loaded = demo("tidemill.scene.toml");
    let mut console = Console::new(Path::new("tidemill.scene.toml"), loaded, &[]).unwrap();
    seconds(&mut console, 0.5);
    for (width, height) in [(80, 24), (300, 90), (24, 8), (25, 60), (200, 9), (10, 4), (1, 1)] {
        for _ in 0..3 {
            let lines = screen(&mut console, width, height);
            assert_eq!(lines.len(), usize::from(height));
            for typed in ["?", " ", "L", "L", "C", "{esc}", "+", "-", "F", "F", "0", "V"] {
                keys(&mut console, typed);
                screen(&mut console, width, height);
            }
        }
    }
    assert!(screen(&mut console, 22, 6)[0].contains("at least 24x8"));
    let small = screen(&mut console, 80, 24).join("\n");
    for text in ["Tide mill", "Why sluice_pad", "Events", "arrows walk"] {
        assert!(small.contains(text), "{text} in {small}");
    }
    keys(&mut console, "V");
    assert!(shows(&mut console, "from the south"));
}

#[test]
fn states_can_be_told_apart_without_colour() {
    let mut console = console(scene(YARD));
    keys(&mut console, "+++++");
    let dots = |console: &mut Console| {
        let lines = screen(console, 120, 40);
        let count = |line: &String| {
            line.chars()
                .filter(|it| ('\u{2800}'..='\u{28ff}').contains(it))
                .map(|it| (it as u32 - 0x2800).count_ones())
                .sum::<u32>()
        };
        lines.iter().map(count).sum::<u32>()
    };
    assert!(shows(&mut console, "×"), "the cellar is off");
    let idle = dots(&mut console);
    keys(&mut console, "W");
    seconds(&mut console, 1.0);
    let fired = dots(&mut console);
    seconds(&mut console, 2.0);
    let occupied = dots(&mut console);
    assert!(idle < occupied && occupied < fired, "{idle} {occupied} {fired}");
}

#[test]
fn what_was_played_is_kept_as_a_playtest_that_passes() {
    let mut console = console(scene(YARD));
    keys(&mut console, "W");
    seconds(&mut console, 2.0);
    keys(&mut console, "e{right} C{enter}G");
    seconds(&mut console, 1.5);
    let text = console.record(Path::new("found/yard.playtest.toml"));
    assert!(text.starts_with("scene = \"../yard.toml\"\n"), "{text}");
    let source = hazuro_format::Source::new("found.playtest.toml", text.clone());
    let playtest = read_playtest(&source, scene(YARD).scene).unwrap();
    let report = run_playtest(&playtest, None);
    assert!(report.passed() && report.outcomes.len() >= 4, "{text} {report:?}");
    assert!(text.contains("event = \"enter\", on = \"pad\", who = \"miller\", times = 2"));
    assert!(text.contains("value = \"count.visits\", is = 2"));
}

/// A folder with a scene, gone when the test is over.
struct Folder(PathBuf);

impl Folder {
    fn new(name: &str) -> Self {
        let path = std::env::temp_dir().join(format!("hazuro-{name}-{}", std::process::id()));
        std::fs::create_dir_all(&path).unwrap();
        Self(path)
    }

    /// Writes a file so that its time is another, whatever the file system tells of times.
    fn write(&self, text: &str, later: u64) -> PathBuf {
        let path = self.0.join("yard.toml");
        std::fs::write(&path, text).unwrap();
        let file = std::fs::File::options().write(true).open(&path).unwrap();
        file.set_modified(SystemTime::now() + Duration::from_secs(later)).unwrap();
        path
    }
}

impl Drop for Folder {
    fn drop(&mut self) {
        let _ = std::fs::remove_dir_all(&self.0);
    }
}

#[test]
fn saved_files_are_read_again_and_wrong_ones_are_not() {
    let folder = Folder::new("reload");
    let path = folder.write(YARD, 0);
    let mut console = Console::new(&path, load(&path).unwrap(), &[]).unwrap();
    keys(&mut console, "W");
    seconds(&mut console, 2.0);
    let now = console.play().now();
    console.read_again();
    assert!(!shows(&mut console, "read again"), "nothing was saved");
    // The pad lies elsewhere: the same walk does not get there.
    folder.write(&YARD.replace("at = [0, 1, -4]", "at = [0, 1, -9]"), 10);
    console.read_again();
    assert!(shows(&mut console, "played to the same moment"));
    assert_eq!((console.play().now(), console.play().count("visits")), (now, 0));
    folder.write(&YARD.replace("name = \"pad\"", "name = \"pda\""), 20);
    console.read_again();
    assert!(shows(&mut console, "the last good scene plays on"));
    seconds(&mut console, 0.5);
    assert!(console.play().now() > now);
    // Somebody who acted is gone.
    folder.write(&YARD.replace("miller", "milner"), 30);
    console.read_again();
    assert!(shows(&mut console, "no longer fits"));
    assert!(shows(&mut console, "you are milner"));
}

#[test]
fn values_are_watched_and_wrong_ones_refused() {
    let watch = ["miller: who.z".to_owned()];
    let mut console = Console::new(Path::new("yard.toml"), scene(YARD), &watch).unwrap();
    keys(&mut console, "W");
    seconds(&mut console, 1.2);
    assert!(shows(&mut console, "miller: who.z = -3."));
    let wrong = Console::new(Path::new("yard.toml"), scene(YARD), &["count.vists".to_owned()]);
    assert!(wrong.unwrap_err().help().unwrap().contains("visits"));
}

#[test]
fn a_scene_without_anybody_says_so() {
    let mut console = console(scene("[scene]\nname = \"Nothing\"\n"));
    keys(&mut console, "{up} eGTCKN{tab}V<>,.LE/x{enter}");
    seconds(&mut console, 0.2);
    screen(&mut console, 120, 40);
    keys(&mut console, "{up}");
    assert!(shows(&mut console, "nobody here is a player"));
    keys(&mut console, "Q");
    assert!(console.is_over());
}

#[test]
fn walking_follows_the_view_and_the_eye_the_player() {
    let mut console = console(scene(YARD));
    let place = |console: &Console| console.play().pose("miller").unwrap().position;
    seconds(&mut console, 0.1);
    screen(&mut console, 120, 40);
    keys(&mut console, "V");
    assert!(shows(&mut console, "from the south"));
    // Up is away from the eye, which looks north.
    keys(&mut console, "{up}");
    seconds(&mut console, 0.5);
    assert!(place(&console).z < -0.9, "{}", place(&console));
    keys(&mut console, "V");
    assert!(shows(&mut console, "from the east"));
    keys(&mut console, "{up}");
    seconds(&mut console, 0.5);
    assert!(place(&console).x < -0.9, "{}", place(&console));
    keys(&mut console, "{right}");
    seconds(&mut console, 0.5);
    assert!(place(&console).z < -1.9, "north is on the right");
    keys(&mut console, " ");
    seconds(&mut console, 0.3);
    assert!(place(&console).y > 0.5, "it jumps");
    // Near and following, the player stays in the middle of the map.
    seconds(&mut console, 1.0);
    keys(&mut console, "V+++++F");
    let (column, row) = {
        let lines = screen(&mut console, 120, 40);
        let at = lines.iter().enumerate().skip(1).find_map(|(row, line)| {
            line.chars().take(70).position(|it| "▲▶▼◀".contains(it)).map(|column| (column, row))
        });
        at.unwrap()
    };
    assert!((30..42).contains(&column) && (14..24).contains(&row), "{column} {row}");
}

#[test]
fn the_wheel_zooms_and_what_is_done_while_paused_waits() {
    let mut console = console(scene(YARD));
    seconds(&mut console, 0.1);
    let ruler = |console: &mut Console| {
        let lines = screen(console, 120, 40);
        lines.iter().find(|line| line.starts_with('├')).unwrap().clone()
    };
    let before = ruler(&mut console);
    mouse(&mut console, MouseEventKind::ScrollUp, (20, 20));
    assert_ne!(ruler(&mut console), before);
    mouse(&mut console, MouseEventKind::ScrollDown, (20, 20));
    keys(&mut console, "0");
    assert_eq!(ruler(&mut console), before);
    keys(&mut console, "PW");
    seconds(&mut console, 1.0);
    assert_eq!(console.play().pose("miller").unwrap().position.z, 0.0);
    assert!(shows(&mut console, "P or . plays on"));
    keys(&mut console, "...");
    assert!(console.play().pose("miller").unwrap().position.z < -0.1);
}

#[test]
fn resizing_keeps_what_was_looked_at_and_changes_nothing_in_the_play() {
    let mut console = console(scene(YARD));
    seconds(&mut console, 0.5);
    let before = console.play().state().fingerprint();
    for (width, height) in [(120, 40), (60, 20), (24, 8), (200, 50)] {
        console.take(&Event::Resize(width, height));
        let lines = screen(&mut console, width, height);
        assert!(lines[0].contains("Yard"), "{lines:?}");
    }
    assert_eq!(console.play().state().fingerprint(), before);
    keys(&mut console, "~");
    assert!(shows(&mut console, "`~` does nothing here"));
    console.take(&Event::Key(KeyEvent::new(KeyCode::Char('c'), KeyModifiers::CONTROL)));
    assert!(console.is_over());
}

#[test]
fn the_timeline_goes_along_and_back() {
    let loaded = demo("mill.playtest.toml");
    let mut console = Console::new(Path::new("mill.playtest.toml"), loaded, &[]).unwrap();
    console.go(Time::from_secs(4.0));
    keys(&mut console, "L");
    assert!(!shows(&mut console, "miller effects"));
    // The broth at 4.3 s; it is under way, then over, then not yet.
    console.go(Time::from_secs(8.0));
    assert!(shows(&mut console, "miller effects"));
    let effect = |console: &mut Console| {
        let lines = screen(console, 120, 44);
        let row = lines.iter().find(|line| line.contains("miller effects")).cloned();
        row.map_or(0, |row| row.matches('▬').count())
    };
    let lasting = effect(&mut console);
    console.go(Time::from_secs(40.0));
    assert!(effect(&mut console) > 0 && effect(&mut console) < lasting);
    console.go(Time::from_secs(4.0));
    assert!(!shows(&mut console, "miller effects"));
}

#[test]
fn another_rate_is_another_tick_and_the_same_play() {
    let mut console = console(scene(YARD)).at_rate(10);
    keys(&mut console, "W");
    seconds(&mut console, 2.0);
    assert_eq!(console.play().count("visits"), 1);
    keys(&mut console, "P");
    let before = console.play().now();
    keys(&mut console, ".");
    assert_eq!((console.play().now() - before).nanos() / 1_000_000, 100);
}

#[test]
fn what_is_ahead_on_a_tape_is_still_done_after_files_were_read_again() {
    let folder = Folder::new("ahead");
    folder.write(YARD, 0);
    let tape = |to: &str| {
        format!(
            "scene = \"yard.toml\"\nseconds = 9\ntape = [{{ at = 2, who = \"miller\", walk_to = {to} }}]\n"
        )
    };
    let path = folder.0.join("yard.playtest.toml");
    std::fs::write(&path, tape("\"pad\"")).unwrap();
    let mut console = Console::new(&path, load(&path).unwrap(), &[]).unwrap();
    seconds(&mut console, 1.0);
    folder.write(&YARD.replace("hello = \"", "hello = \"Oh: "), 10);
    console.read_again();
    assert!(shows(&mut console, "played to the same moment"));
    seconds(&mut console, 4.0);
    assert!(shows(&mut console, "Oh: miller has come."));
    // If only the tape was played, what it says now counts.
    std::fs::write(&path, tape("[5, 0, 0]")).unwrap();
    let later = SystemTime::now() + Duration::from_secs(20);
    std::fs::File::options().write(true).open(&path).unwrap().set_modified(later).unwrap();
    console.read_again();
    assert_eq!(console.play().count("visits"), 0);
}
