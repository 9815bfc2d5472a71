//! `hazuro host`: lets several players play a scene, each from elsewhere.

use std::path::{Path, PathBuf};
use std::thread::sleep;
use std::time::{Duration, Instant};

use hazuro::{EntityId, Entry, Input, Scene, Time};
use hazuro_format::{Code, FileAccess, Finding, Level, Severity, path_from, write_log};
use hazuro_link::socket::Server;
use hazuro_link::{News, Room, Rules};
use hazuro_verify::{Loaded, load_with, write_playtest};
use hazuro_view::hosted_page;

use crate::interrupt::Interrupt;
use crate::output::{Table, complain, report, say};
use crate::write::{write, write_text};
use crate::{Ending, seconds};

/// How often it is told how everybody is doing.
const REPORT: Duration = Duration::from_secs(10);

/// What is asked of `host`.
#[derive(Debug, clap::Args)]
pub struct Hosting {
    /// A scene file
    scene: PathBuf,
    /// Where to listen; other machines reach only an address of this one, as 0.0.0.0:4646
    #[arg(long, value_name = "ADDRESS:PORT", default_value = "127.0.0.1:4646")]
    address: String,
    /// A word that whoever joins must know
    #[arg(long, value_name = "WORD")]
    token: Option<String>,
    /// Stop after this number of seconds [default: when it is interrupted]
    #[arg(long, value_name = "S", value_parser = seconds)]
    seconds: Option<f64>,
    /// Write the events as JSON Lines when it is over
    #[arg(long, value_name = "FILE")]
    log: Option<PathBuf>,
    /// Write what was done as a playtest when it is over, with what happened as its expectations
    #[arg(long, value_name = "FILE")]
    record: Option<PathBuf>,
}

/// Hosts a scene until it is interrupted.
pub fn host(asked: &Hosting, access: &FileAccess) -> Ending {
    let loaded = match load_with(&asked.scene, access) {
        Ok(loaded) => loaded,
        Err(findings) => return report(&findings),
    };
    let scene = loaded.scene.clone();
    let players: Vec<&str> =
        scene.ids().filter(|it| scene.is_player(*it)).map(|it| scene.name(it)).collect();
    if players.is_empty() {
        let finding = Finding::new(Severity::Error, Code::NoPlayer, "nobody here can be played");
        return report(&[finding.with_help("give an entity player = true")]);
    }
    let listening = Server::listen(asked.address.as_str()).and_then(|it| Ok((it.address()?, it)));
    let (address, server) = match listening {
        Ok(listening) => listening,
        Err(error) => {
            let message = format!("nothing can listen at {}: {error}", asked.address);
            let finding = Finding::new(Severity::Error, Code::NoLine, message);
            return report(&[finding.with_help("choose another: --address 127.0.0.1:0")]);
        }
    };
    let server = server.with_page(hosted_page(&loaded));
    say!("{}: listening at {address} for {}", scene.title(), players.join(", "));
    say!("in a browser: http://{address}/{}\n", token_query(asked.token.as_deref()));
    let mut room =
        Room::new(loaded.play(), Rules { token: asked.token.clone(), ..Rules::default() });
    if asked.record.is_some() {
        room = room.recording();
    }
    let interrupt = Interrupt::listen();
    let (room, entries) = serve(room, server, asked.seconds, &interrupt);
    if let Some(log) = &asked.log {
        let content =
            |file: &mut dyn std::io::Write| write_log(file, room.play(), &entries, Level::Events);
        if let Err(finding) = write(log, &loaded.files(), content) {
            return report(&[finding]);
        }
    }
    if let Some(file) = &asked.record {
        let text = recorded(&loaded, file, &room, &entries);
        if let Err(finding) = write_text(file, &loaded.files(), &text) {
            return report(&[finding]);
        }
        say!("{}: {} s of play", file.display(), room.play().now().secs());
    }
    // To be interrupted is how it ends.
    if asked.seconds.is_some() { interrupt.ending(Ending::Fine) } else { Ending::Fine }
}

/// What was played, as a playtest that will stand in a file.
fn recorded(loaded: &Loaded, file: &Path, room: &Room, entries: &[Entry]) -> String {
    let heard = room.heard().iter().map(|heard| (heard.at, heard.input.clone()));
    let mut tape: Vec<(Time, Input)> = heard.collect();
    tape.sort_by_key(|(at, _)| *at);
    let scene = path_from(file, Path::new(loaded.source.name()));
    write_playtest(&scene, room.play(), &tape, entries)
}

/// What the address of the page says of the token.
fn token_query(token: Option<&str>) -> String {
    // The page asks for a token that cannot stand in an address as it is.
    let is_plain = |token: &&str| token.chars().all(|it| it.is_ascii_alphanumeric());
    token.filter(is_plain).map_or_else(String::new, |token| format!("?token={token}"))
}

/// Plays tick by tick, as time goes by, and prints what happens.
fn serve(
    mut room: Room,
    mut server: Server,
    until: Option<f64>,
    interrupt: &Interrupt,
) -> (Room, Vec<Entry>) {
    let scene = room.play().scene().clone();
    let table = Table::new(&scene);
    say!("{}", table.head());
    let tick = Duration::from_secs_f64(1.0 / f64::from(room.play().rate()));
    let (mut next, mut told) = (Instant::now(), Instant::now());
    let mut all = Vec::new();
    while !interrupt.is_asked() && until.is_none_or(|until| room.play().now().secs() < until) {
        server.take(&mut room);
        let entries = room.step().to_vec();
        for line in table.lines(&scene, &[], &entries) {
            say!("{line}");
        }
        all.extend(entries);
        server.send(&mut room);
        let now = room.play().now();
        for news in room.news() {
            complain!("{now:>9.3} s  {}", words(&scene, &news), now = now.secs());
        }
        if told.elapsed() > REPORT {
            told = Instant::now();
            for seat in room.seats() {
                let rate = seat.sent as f64 / now.secs().max(1.0) / 1000.0;
                let name = scene.name(seat.player);
                complain!("{name}: {:.3} s ahead, {rate:.1} kB a second", seat.lead);
            }
        }
        next += tick;
        // Whoever was held up does not hurry to make up for it.
        next = next.max(Instant::now().checked_sub(tick).unwrap_or(next));
        sleep(next.saturating_duration_since(Instant::now()));
    }
    (room, all)
}

fn words(scene: &Scene, news: &News) -> String {
    let name = |player: &EntityId| scene.name(*player);
    match news {
        News::Joined { player } => format!("{} has joined", name(player)),
        News::Back { player } => format!("{} is back", name(player)),
        News::CutOff { player } => format!("{} was cut off", name(player)),
        News::Left { player } => format!("{} has left", name(player)),
        News::Denied { line, why } => format!("{line} may not join: {why}"),
        News::Refused { player, why, .. } => format!("a deed of {}: {why}", name(player)),
        News::Closed { line, why } => format!("{line} was closed: {why}"),
        _ => "something else came about".into(),
    }
}
