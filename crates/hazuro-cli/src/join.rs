//! `hazuro join`: plays as one of the players of a scene that is hosted elsewhere, by lines of text.

use std::collections::VecDeque;
use std::io::{BufRead, stdin};
use std::path::PathBuf;
use std::sync::mpsc::{self, Receiver, TryRecvError};
use std::thread::{self, sleep};
use std::time::{Duration, Instant};

use hazuro::{Entry, Event, Happening, Origin, Scene};
use hazuro_format::{FileAccess, Finding, Severity};
use hazuro_link::socket::Connection;
use hazuro_link::{Client, Deed, Standing, To};
use hazuro_verify::load_with;

use crate::Ending;
use crate::interrupt::Interrupt;
use crate::output::{Table, complain, report, say};

/// What can be typed.
const COMMANDS: &str = "walk NAME or X Z, straight NAME or X Z, face NAME or X Z, follow NAME, halt, \
                        jump, grab NAME, drop, throw X Y Z, use NAME, press KEY, release KEY, where \
                        NAME, owner NAME, wait SECONDS, leave";
/// By how much one's own body must be put elsewhere for it to be told, in metres.
const TOLD: f64 = 0.05;

/// What is asked of `join`.
#[derive(Debug, clap::Args)]
pub struct Joining {
    /// Where the host listens, as 127.0.0.1:4646
    address: String,
    /// The scene file, the same that the host has
    scene: PathBuf,
    /// The player to be [default: the first whom nobody plays]
    #[arg(long, value_name = "NAME")]
    player: Option<String>,
    /// The word that the host asks for
    #[arg(long, value_name = "WORD")]
    token: Option<String>,
}

/// Something that was typed.
enum Typed {
    Deed(Deed),
    Where(String),
    Owner(String),
    Wait(f64),
    Leave,
}

/// Joins a host, does what is typed, and prints what happens, until one leaves.
pub fn join(asked: &Joining, access: &FileAccess) -> Ending {
    let loaded = match load_with(&asked.scene, access) {
        Ok(loaded) => loaded,
        Err(findings) => return report(&findings),
    };
    let mut client = Client::new(loaded.scene.clone());
    if let Some(player) = &asked.player {
        client = client.named(player);
    }
    if let Some(token) = &asked.token {
        client = client.token(token);
    }
    let connection = match Connection::open(asked.address.as_str()) {
        Ok(connection) => connection,
        Err(error) => {
            return no_line(&format!("there is no host at {}: {error}", asked.address));
        }
    };
    let interrupt = Interrupt::listen();
    let ending = follow(client, connection, &interrupt);
    interrupt.ending(ending)
}

fn no_line(message: &str) -> Ending {
    let finding = Finding::new(Severity::Error, "no-line", message);
    report(&[finding.with_help("`hazuro host` prints where it listens and for whom")])
}

/// Goes on tick by tick, as time goes by.
fn follow(mut client: Client, mut connection: Connection, interrupt: &Interrupt) -> Ending {
    let scene = client.play().scene().clone();
    let table = Table::new(&scene);
    let lines = typed();
    let tick = Duration::from_secs_f64(1.0 / f64::from(client.play().rate()));
    let (mut next, mut resume) = (Instant::now(), Instant::now());
    let (mut waiting, mut is_over, mut joined) = (VecDeque::new(), false, false);
    loop {
        client.step();
        let line = connection.exchange(&mut client);
        match client.standing() {
            Standing::Joining => {}
            Standing::Playing if joined => {}
            Standing::Playing => {
                joined = true;
                let name = client.player().map_or("", |player| scene.name(player));
                say!("{}: you are {name}\n\n{}", scene.title(), table.head());
            }
            Standing::Denied(why) => return no_line(&format!("the host lets nobody in: {why}")),
            Standing::Closed(why) => {
                return no_line(&format!("the host has closed the line: {why}"));
            }
        }
        if let Err(error) = line {
            return no_line(&format!("the line was cut: {error}"));
        }
        tell(&mut client, &scene, &table);
        is_over |= read(&lines, &mut waiting);
        while joined && Instant::now() >= resume {
            match waiting.pop_front() {
                Some(Typed::Wait(seconds)) => {
                    resume = Instant::now() + Duration::from_secs_f64(seconds);
                }
                Some(Typed::Leave) => (is_over, waiting) = (true, VecDeque::new()),
                Some(other) => act(&mut client, other),
                None => break,
            }
        }
        let is_done = is_over && waiting.is_empty() && Instant::now() >= resume;
        if interrupt.is_asked() || (is_done && joined) {
            client.leave();
            // It has been said, or the line is cut; either way nobody is there any more.
            let _ = connection.exchange(&mut client);
            return Ending::Fine;
        }
        next += tick;
        next = next.max(Instant::now().checked_sub(tick).unwrap_or(next));
        sleep(next.saturating_duration_since(Instant::now()));
    }
}

/// Prints what the host has told.
fn tell(client: &mut Client, scene: &Scene, table: &Table) {
    let entry = |event: Event| Entry {
        number: 0,
        origin: Origin::Start,
        step: None,
        what: Happening::Event(event),
    };
    let entries: Vec<Entry> = client.events().map(entry).collect();
    for line in table.lines(scene, &[], &entries) {
        say!("{line}");
    }
    for text in client.said() {
        say!("           \"{text}\"");
    }
    for (_, why) in client.refused() {
        complain!("the host has not done it: {why}");
    }
    for correction in client.corrections().filter(|it| it.metres > TOLD) {
        complain!("you are {:.2} m from where you thought", correction.metres);
    }
}

fn act(client: &mut Client, typed: Typed) {
    match typed {
        Typed::Deed(deed) => {
            if let Err(fault) = client.act(deed) {
                complain!("{fault}");
            }
        }
        Typed::Where(name) => match client.pose(name.as_str()) {
            Ok(pose) => {
                let [x, y, z] = pose.position.to_array();
                say!("           {name} is at [{x:.2}, {y:.2}, {z:.2}]");
            }
            Err(fault) => complain!("{fault}"),
        },
        Typed::Owner(name) => match client.play().owner(name.as_str()) {
            Ok(owner) => {
                let whom = owner.map_or("nobody", |owner| client.play().scene().name(owner));
                say!("           {name} belongs to {whom}");
            }
            Err(fault) => complain!("{fault}"),
        },
        Typed::Wait(_) | Typed::Leave => {}
    }
}

/// What is typed, line by line, read by a thread of its own, since reading waits.
fn typed() -> Receiver<String> {
    let (sender, lines) = mpsc::channel();
    thread::spawn(move || {
        for line in stdin().lock().lines() {
            let Ok(line) = line else { break };
            if sender.send(line).is_err() {
                break;
            }
        }
    });
    lines
}

/// Takes in what has been typed. Whether nothing more will be.
fn read(lines: &Receiver<String>, waiting: &mut VecDeque<Typed>) -> bool {
    loop {
        match lines.try_recv() {
            Ok(line) if line.trim().is_empty() => {}
            Ok(line) => {
                let typed = command(&line);
                if typed.is_none() {
                    complain!("`{}` means nothing here; there are {COMMANDS}", line.trim());
                }
                waiting.extend(typed);
            }
            Err(TryRecvError::Empty) => return false,
            Err(TryRecvError::Disconnected) => return true,
        }
    }
}

/// What a line means; none if it means nothing.
fn command(line: &str) -> Option<Typed> {
    let words: Vec<&str> = line.split_whitespace().collect();
    let (verb, rest) = words.split_first()?;
    let numbers: Option<Vec<f64>> = rest.iter().map(|word| word.parse().ok()).collect();
    let numbers = numbers.unwrap_or_default();
    let name = || (!rest.is_empty()).then(|| rest.join(" "));
    let to = || match numbers[..] {
        [x, z] => Some(To::from([x, 0.0, z])),
        _ => name().map(To::Name),
    };
    Some(Typed::Deed(match *verb {
        "walk" => Deed::Walk { to: to()? },
        "straight" => Deed::WalkStraight { to: to()? },
        "face" => Deed::Face { to: to()? },
        "follow" => Deed::Follow { whom: name()?, near: 1.0 },
        "halt" => Deed::Halt,
        "jump" => Deed::Jump,
        "grab" => Deed::Grab { what: name()? },
        "drop" => Deed::Drop,
        "throw" => Deed::Throw { velocity: numbers.try_into().ok()? },
        "use" => Deed::Interact { with: name()? },
        "press" => Deed::Press { key: name()? },
        "release" => Deed::Release { key: name()? },
        "where" => return Some(Typed::Where(name()?)),
        "owner" => return Some(Typed::Owner(name()?)),
        "wait" => {
            let [seconds] = numbers[..] else { return None };
            return (0.0..=86_400.0).contains(&seconds).then_some(Typed::Wait(seconds));
        }
        "leave" => return Some(Typed::Leave),
        _ => return None,
    }))
}
