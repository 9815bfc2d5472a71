//! Play in a real pseudo-terminal: what is on its screen, and that it is put back afterwards.

mod support;

use std::io::{Read, Write};
use std::sync::{Arc, Mutex};
use std::time::{Duration, Instant};

use portable_pty::{Child, CommandBuilder, MasterPty, PtySize, native_pty_system};
use support::{Folder, demo};

/// A program in a pseudo-terminal, and what its screen shows.
struct Session {
    master: Box<dyn MasterPty + Send>,
    keys: Option<Box<dyn Write + Send>>,
    child: Box<dyn Child + Send + Sync>,
    screen: Arc<Mutex<vt100::Parser>>,
}

const PATIENCE: Duration = Duration::from_secs(20);

impl Session {
    fn of(arguments: &[&str], (columns, rows): (u16, u16)) -> Self {
        let size = PtySize { rows, cols: columns, pixel_width: 0, pixel_height: 0 };
        let pair = native_pty_system().openpty(size).expect("a pseudo-terminal");
        let mut command = CommandBuilder::new(env!("CARGO_BIN_EXE_hazuro"));
        command.args(arguments);
        command.env("TERM", "xterm-256color");
        let child = pair.slave.spawn_command(command).expect("it runs");
        let screen = Arc::new(Mutex::new(vt100::Parser::new(rows, columns, 0)));
        let (mut reader, shown) =
            (pair.master.try_clone_reader().expect("a reader"), screen.clone());
        std::thread::spawn(move || {
            let mut bytes = [0; 4096];
            while let Ok(count @ 1..) = reader.read(&mut bytes) {
                shown.lock().expect("no panic").process(&bytes[..count]);
            }
        });
        let keys = Some(pair.master.take_writer().expect("a writer"));
        Self { master: pair.master, keys, child, screen }
    }

    fn play(name: &str, more: &[&str]) -> Self {
        let path = demo(name);
        Self::of(&[&["play", path.as_str()], more].concat(), (110, 34))
    }

    fn text(&self) -> String {
        self.screen.lock().expect("no panic").screen().contents()
    }

    #[track_caller]
    fn sees(&self, text: &str) {
        let start = Instant::now();
        while !self.text().contains(text) {
            assert!(start.elapsed() < PATIENCE, "no {text:?} in\n{}", self.text());
            std::thread::sleep(Duration::from_millis(20));
        }
    }

    /// Waits until the text is gone: a screen comes in pieces, and late on a busy machine.
    #[track_caller]
    fn sees_no_more(&self, text: &str) {
        let start = Instant::now();
        while self.text().contains(text) {
            assert!(start.elapsed() < PATIENCE, "still {text:?} in\n{}", self.text());
            std::thread::sleep(Duration::from_millis(20));
        }
    }

    /// Types the keys again and again until the text is there, each time only after the line
    /// that holds `mark` has changed.
    #[track_caller]
    fn types_until(&mut self, keys: &str, mark: &str, text: &str) {
        let line =
            |of: &Self| of.text().lines().find(|line| line.contains(mark)).map(str::to_owned);
        let start = Instant::now();
        while !self.text().contains(text) {
            let before = line(self);
            self.types(keys);
            while line(self) == before && !self.text().contains(text) {
                assert!(start.elapsed() < PATIENCE, "no {text:?} in\n{}", self.text());
                std::thread::sleep(Duration::from_millis(20));
            }
        }
    }

    fn types(&mut self, keys: &str) {
        let keys = keys.replace("{up}", "\x1b[A").replace("{UP}", "\x1b[1;2A");
        self.keys.as_mut().expect("open").write_all(keys.as_bytes()).expect("it reads");
    }

    /// Waits for the end; its exit code.
    #[track_caller]
    fn ends(&mut self) -> u32 {
        let start = Instant::now();
        loop {
            if let Some(status) = self.child.try_wait().expect("it was started") {
                // What it wrote last is still on its way to the screen.
                std::thread::sleep(Duration::from_millis(100));
                return status.exit_code();
            }
            assert!(start.elapsed() < PATIENCE, "it goes on:\n{}", self.text());
            std::thread::sleep(Duration::from_millis(20));
        }
    }

    /// Whether the terminal is as it was: its own screen, the cursor shown, no mouse.
    fn is_restored(&self) -> bool {
        let parser = self.screen.lock().expect("no panic");
        let screen = parser.screen();
        !screen.alternate_screen()
            && !screen.hide_cursor()
            && screen.mouse_protocol_mode() == vt100::MouseProtocolMode::None
    }
}

impl Drop for Session {
    fn drop(&mut self) {
        let _ = self.child.kill();
        let _ = self.child.wait();
    }
}

#[test]
fn the_gate_is_opened_gone_back_from_and_the_bell_poked() {
    let folder = Folder::new("terminal");
    let record = folder.0.join("played.playtest.toml").display().to_string();
    let mut session = Session::play("tidemill.scene.toml", &["--record", &record]);
    session.sees("you are miller");
    // Into the sluice pad: the gate opens.
    session.types("{UP}");
    std::thread::sleep(Duration::from_millis(1500));
    session.types("{UP}");
    session.sees("enter sluice_pad miller");
    session.sees("→ move leaf_left to left_open");
    session.sees("zone: ● detects now");
    // Back in time, to before that, and on again.
    session.types("P");
    session.sees("paused");
    session.types("J1\r");
    session.sees("1.00 of");
    session.sees_no_more("enter sluice_pad");
    session.types_until(">", " of ", "enter sluice_pad miller");
    // The bell, by hand.
    session.types_until("N", "Why ", "Why tide_bell");
    session.types("K");
    session.sees("Poke tide_bell");
    session.types_until("\x1b[B", "▸", "▸ click");
    session.types("\r");
    session.types("P");
    session.sees("click tide_bell miller");
    session.types("Q");
    assert!(session.ends() == 0 && session.is_restored());
    let text = std::fs::read_to_string(&record).expect("it was kept");
    assert!(text.contains("poke = \"tide_bell\", event = \"click\""), "{text}");
    assert!(text.contains("event = \"enter\", on = \"sluice_pad\", who = \"miller\""), "{text}");
    let output = support::hazuro(&["test", "--root", "/", &record]);
    assert!(output.status.success(), "{}", support::stdout(&output));
}

#[test]
fn sizes_change_and_may_be_tiny() {
    let mut session = Session::play("tidemill.scene.toml", &[]);
    session.sees("Why sluice_pad");
    for (cols, rows) in [(20, 5), (80, 24)] {
        let size = PtySize { rows, cols, pixel_width: 0, pixel_height: 0 };
        session.screen.lock().expect("no panic").screen_mut().set_size(rows, cols);
        session.master.resize(size).expect("a size");
        session.sees(if rows == 5 { "at least 24x8" } else { "Why sluice_pad" });
    }
    session.types("Q");
    assert!(session.ends() == 0 && session.is_restored());
}

#[cfg(unix)]
fn signal(session: &Session, signal: &str) {
    let id = session.child.process_id().expect("it runs").to_string();
    let kill = format!("kill -{signal} {id}");
    std::process::Command::new("sh").args(["-c", &kill]).status().expect("a shell");
}

#[test]
#[cfg(unix)]
fn a_signal_ends_it_and_the_terminal_is_put_back() {
    for (name, code) in [("INT", 130), ("TERM", 143), ("QUIT", 131)] {
        let folder = Folder::new(&format!("signal-{name}"));
        let record = folder.0.join("played.playtest.toml").display().to_string();
        let mut session = Session::play("tidemill.scene.toml", &["--record", &record]);
        session.sees("you are miller");
        session.types("{up}");
        session.sees("walk");
        signal(&session, name);
        assert_eq!(session.ends(), code, "{name}");
        assert!(session.is_restored(), "{name}");
        // What was played is kept.
        let text = std::fs::read_to_string(&record).expect("it was kept");
        assert!(text.contains("walk_to"), "{text}");
    }
}

#[test]
#[cfg(unix)]
fn it_can_be_suspended_and_goes_on() {
    let mut session = Session::play("tidemill.scene.toml", &[]);
    for stop in ["TSTP", "Ctrl-Z"] {
        session.sees("you are miller");
        if stop == "TSTP" {
            signal(&session, stop);
        } else {
            session.types("\x1a");
        }
        let start = Instant::now();
        while !session.is_restored() {
            assert!(start.elapsed() < PATIENCE, "{stop} does not give the terminal back");
            std::thread::sleep(Duration::from_millis(20));
        }
        std::thread::sleep(Duration::from_millis(100));
        signal(&session, "CONT");
        while session.is_restored() {
            assert!(start.elapsed() < PATIENCE, "it does not go on");
            std::thread::sleep(Duration::from_millis(20));
        }
    }
    session.types("q");
    assert!(session.ends() == 0 && session.is_restored());
}

#[test]
fn whoever_has_typed_a_lot_need_not_wait_to_quit() {
    let mut session = Session::play("tidemill.scene.toml", &[]);
    session.sees("you are miller");
    let mut keys = session.keys.take().expect("open");
    let typing = std::thread::spawn(move || {
        keys.write_all("wasd{UP}eN".repeat(20_000).as_bytes()).expect("it reads");
        keys.write_all(b"q").expect("it reads");
        keys
    });
    let keys = typing.join().expect("all is read");
    let start = Instant::now();
    assert!(session.ends() == 0 && session.is_restored());
    assert!(start.elapsed() < PATIENCE);
    drop(keys);
}

#[test]
fn it_ends_when_its_terminal_goes_away() {
    let mut session = Session::play("tidemill.scene.toml", &[]);
    session.sees("you are miller");
    session.types("P");
    session.sees("paused");
    // The window is closed: nobody reads, nobody types.
    session.keys = None;
    let other = native_pty_system().openpty(PtySize::default()).expect("a pseudo-terminal");
    drop(std::mem::replace(&mut session.master, other.master));
    session.ends();
}

#[test]
fn without_a_terminal_it_says_so() {
    let output = support::hazuro(&["play", &demo("tidemill.scene.toml")]);
    assert_eq!(output.status.code(), Some(2));
    assert!(support::stderr(&output).contains("standard output is no terminal"));
    assert!(support::stderr(&output).contains("hazuro run"));
    let output = support::hazuro(&["play", &demo("tidemill.scene.toml"), "--watch", "count.tokns"]);
    assert!(support::stderr(&output).contains("tokens"));
}

#[test]
fn findings_are_coloured_on_a_terminal_and_their_texts_are_not() {
    let folder = Folder::new("coloured");
    let scene = folder.write("yard.toml", "[[entity]]\nname = \"pad\"\nzoen = \"\u{1b}[31m\"\n");
    let plain = folder.write("pad.toml", "[[entity]]\nname = \"pad\"\nzoen = \"box\"\n");
    for (file, shows) in [(plain, "zoen = \"box\""), (scene, "zoen = \"?[31m\"")] {
        let mut session = Session::of(&["check", &file], (110, 34));
        assert_eq!(session.ends(), 2);
        session.sees(shows);
        assert!(!session.text().contains("u{1b}["), "{}", session.text());
        let screen = session.screen.lock().expect("no panic");
        let colour = |row| screen.screen().cell(row, 0).map(vt100::Cell::fgcolor);
        assert!((0..34).any(|row| colour(row) != Some(vt100::Color::Default)));
    }
}
