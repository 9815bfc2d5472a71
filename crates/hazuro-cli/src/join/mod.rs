//! `hazuro join`: plays as one of the players of a scene that is hosted elsewhere, by lines of text.

mod desk;
mod typed;

use std::collections::VecDeque;
use std::path::PathBuf;
use std::thread::sleep;
use std::time::{Duration, Instant};

use hazuro_format::{Code, FileAccess, Finding, Severity};
use hazuro_link::socket::Connection;
use hazuro_link::{Client, Denial, Standing, Viewer};
use hazuro_verify::load_with;

use crate::Ending;
use crate::interrupt::Interrupt;
use crate::output::{Table, complain, report, say};

use desk::Desk;
use typed::{Typed, read, typed};

/// What is asked of `join`.
#[derive(Debug, clap::Args)]
pub struct Joining {
    /// Where the host listens, as 127.0.0.1:4646
    address: String,
    /// The scene file, the same that the host has; without it one's own body waits for the line, and
    /// what is a secret of one's own is told
    scene: Option<PathBuf>,
    /// The player to be [default: the first whom nobody plays]
    #[arg(long, value_name = "NAME")]
    player: Option<String>,
    /// The word that the host asks for
    #[arg(long, value_name = "WORD")]
    token: Option<String>,
}

/// Joins a host, does what is typed, and prints what happens, until one leaves.
pub fn join(asked: &Joining, access: &FileAccess) -> Ending {
    let loaded = asked.scene.as_ref().map(|scene| load_with(scene, access)).transpose();
    let scene = match loaded {
        Ok(loaded) => loaded.map(|loaded| loaded.scene),
        Err(findings) => return report(&findings),
    };
    let connection = match Connection::open(asked.address.as_str()) {
        Ok(connection) => connection,
        Err(error) => {
            return no_line(&format!("there is no host at {}: {error}", asked.address));
        }
    };
    match scene {
        Some(scene) => sit(Client::new(scene), asked, connection),
        None => sit(Viewer::new(), asked, connection),
    }
}

/// Sits down at a desk.
fn sit<T: Desk>(mut desk: T, asked: &Joining, connection: Connection) -> Ending {
    if let Some(player) = &asked.player {
        desk = desk.named(player);
    }
    if let Some(token) = &asked.token {
        desk = desk.token(token);
    }
    let interrupt = Interrupt::listen();
    let ending = follow(desk, connection, &interrupt);
    interrupt.ending(ending)
}

fn no_line(message: &str) -> Ending {
    no_entry(message, "`hazuro host` prints where it listens and for whom")
}

fn no_entry(message: &str, help: &str) -> Ending {
    report(&[Finding::new(Severity::Error, Code::NoLine, message).with_help(help)])
}

/// Goes on tick by tick, as time goes by.
fn follow(mut desk: impl Desk, mut connection: Connection, interrupt: &Interrupt) -> Ending {
    let lines = typed();
    let tick = Duration::from_secs_f64(1.0 / desk.rate());
    let (mut next, mut resume) = (Instant::now(), Instant::now());
    let (mut waiting, mut is_over) = (VecDeque::new(), false);
    let mut table = None;
    loop {
        desk.step();
        let line = connection.exchange(&mut desk);
        match desk.standing() {
            Standing::Joining => {}
            Standing::Playing if table.is_some() => {}
            Standing::Playing => {
                let (words, head) = desk.greeting();
                say!("{words}\n\n{}", head.head());
                table = Some(head);
            }
            Standing::Denied(why @ Denial::Secrets) => {
                let help = "leave the scene file out";
                return no_entry(&format!("the host lets nobody in: {why}"), help);
            }
            Standing::Denied(why) => return no_line(&format!("the host lets nobody in: {why}")),
            Standing::Closed(why) => {
                return no_line(&format!("the host has closed the line: {why}"));
            }
        }
        if let Err(error) = line {
            return no_line(&format!("the line was cut: {error}"));
        }
        if let Some(table) = &table {
            tell(&mut desk, table);
        }
        is_over |= read(&lines, &mut waiting);
        while table.is_some() && Instant::now() >= resume {
            match waiting.pop_front() {
                Some(Typed::Wait(seconds)) => {
                    resume = Instant::now() + Duration::from_secs_f64(seconds);
                }
                Some(Typed::Leave) => (is_over, waiting) = (true, VecDeque::new()),
                Some(other) => act(&mut desk, other),
                None => break,
            }
        }
        let is_done = is_over && waiting.is_empty() && Instant::now() >= resume;
        if interrupt.is_asked() || (is_done && table.is_some()) {
            desk.leave();
            // It has been said, or the line is cut; either way nobody is there any more.
            let _ = connection.exchange(&mut desk);
            return Ending::Fine;
        }
        next += tick;
        next = next.max(Instant::now().checked_sub(tick).unwrap_or(next));
        sleep(next.saturating_duration_since(Instant::now()));
    }
}

/// Prints what the host has told.
fn tell(desk: &mut impl Desk, table: &Table) {
    desk.tell(table);
    for text in desk.said() {
        say!("           \"{text}\"");
    }
    for (_, why) in desk.refused() {
        complain!("the host has not done it: {why}");
    }
}

fn act(desk: &mut impl Desk, typed: Typed) {
    let outcome = match typed {
        Typed::Deed(deed) => desk.act(deed).map(drop).map_err(|fault| fault.to_string()),
        Typed::Where(name) => desk.place(&name).map(|place| {
            let [x, y, z] = place.to_array();
            say!("           {name} is at [{x:.2}, {y:.2}, {z:.2}]");
        }),
        Typed::Owner(name) => desk.owner(&name).map(|owner| {
            say!("           {name} belongs to {}", owner.as_deref().unwrap_or("nobody"));
        }),
        Typed::Wait(_) | Typed::Leave => Ok(()),
    };
    if let Err(why) = outcome {
        complain!("{why}");
    }
}
