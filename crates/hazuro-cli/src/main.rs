//! The `hazuro` command: arguments in, text out, nothing else.

mod apply;
mod check;
mod coverage;
mod demo;
mod draw;
mod explain;
mod files;
mod host;
mod interrupt;
mod join;
mod only;
mod output;
mod play;
mod run;
mod scout;
mod test;
mod why;
mod write;

use std::path::PathBuf;
use std::process::ExitCode;

use clap::{Parser, Subcommand, ValueEnum};
use hazuro_format::{FileAccess, Level};

/// Finds out who set off what in a game scene, exactly when, and why not.
#[derive(Debug, Parser)]
#[command(name = "hazuro", version, arg_required_else_help = true, max_term_width = 100)]
struct Arguments {
    #[command(subcommand)]
    command: Command,
    /// Also read and write files below this folder that other files name
    #[arg(long, value_name = "FOLDER", global = true)]
    root: Option<PathBuf>,
}

#[derive(Debug, Subcommand)]
enum Command {
    /// Plays the shipped demo and shows what it detected: one story, or more of them
    Demo {
        /// A play to show in full [default: the story of the gate]
        #[arg(value_enum)]
        play: Option<DemoPlay>,
        /// Show all plays in full
        #[arg(long, conflicts_with = "play")]
        all: bool,
    },
    /// Lists what is wrong or suspicious in scenes and playtests
    Check {
        /// Scene and playtest files, or folders with them
        #[arg(required = true)]
        paths: Vec<PathBuf>,
        /// For people, or for other programs
        #[arg(long, value_name = "FORMAT", value_enum, default_value_t)]
        format: Format,
        /// Make the cures that are edits of a file, show them, and check again
        #[arg(long, conflicts_with = "format")]
        apply: bool,
        /// Show where each value of an entity comes from, itself or which of its kinds, instead of
        /// checking
        #[arg(long, value_name = "NAME", conflicts_with_all = ["format", "apply"])]
        explain: Vec<String>,
    },
    /// Plays a scene or playtest without a screen and prints its events
    Run {
        /// A scene or playtest file
        path: PathBuf,
        /// Write the events as JSON Lines; `-` writes them to standard output, without the table
        #[arg(long, value_name = "FILE")]
        log: Option<PathBuf>,
        /// How much the log tells
        #[arg(long, value_name = "LEVEL", value_enum, default_value_t, requires = "log")]
        log_level: LogLevel,
        /// Ticks a second, instead of the scene's
        #[arg(long, value_name = "HZ", value_parser = clap::value_parser!(u32).range(1..=10_000))]
        rate: Option<u32>,
        /// How long to play; a scene by itself plays 10 seconds
        #[arg(long, value_name = "S", value_parser = seconds)]
        seconds: Option<f64>,
        /// Print this value whenever it changes: an expression, or `NAME: EXPRESSION` for `who`
        #[arg(long, value_name = "EXPR")]
        watch: Vec<String>,
        /// Show only events of this sort, as `enter`; the log has all
        #[arg(long, value_name = "EVENT", value_delimiter = ',')]
        event: Vec<String>,
        /// Show only what this entity has to do with: its events, and what is done to it
        #[arg(long, value_name = "NAME", value_delimiter = ',')]
        about: Vec<String>,
    },
    /// Says why an event of a playtest happened, or why not
    Why(Asked),
    /// Tries every detector with every sort of subject, from all sides
    Scout(Scouts),
    /// Runs playtests and says which expectations were met
    Test(Tested),
    /// Plays in the terminal: walk, use, click, send cues, watch, go back in time
    Play {
        /// A scene or playtest file
        path: PathBuf,
        /// Show this value: an expression, or `NAME: EXPRESSION` for `who`
        #[arg(long, value_name = "EXPR")]
        watch: Vec<String>,
        /// Ticks a second, instead of the scene's
        #[arg(long, value_name = "HZ", value_parser = clap::value_parser!(u32).range(1..=10_000))]
        rate: Option<u32>,
        /// Keep what was played as a playtest, with what happened as its expectations
        #[arg(long, value_name = "FILE")]
        record: Option<PathBuf>,
    },
    /// Lets several players play a scene, each from elsewhere
    Host(host::Hosting),
    /// Plays as one of the players of a scene that is hosted elsewhere: types deeds, prints events
    Join(join::Joining),
    /// Draws a picture, a timeline or a report page of a scene or playtest
    Draw(Drawing),
}

/// The plays of the demo.
#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
enum DemoPlay {
    /// A gate that opens for players
    Gate,
    /// Clicks, drags, prompts, a watcher, a target
    Yard,
    /// Pickups, stats, effects, needs
    Mill,
    /// A hoist, carrying, throwing, a ladder, jumps
    Granary,
}

impl DemoPlay {
    fn word(self) -> &'static str {
        match self {
            Self::Gate => "gate",
            Self::Yard => "yard",
            Self::Mill => "mill",
            Self::Granary => "granary",
        }
    }
}

/// How findings are told.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, ValueEnum)]
enum Format {
    /// With the lines they are about
    #[default]
    Text,
    /// A JSON list
    Json,
    /// SARIF 2.1.0, for code hosts and editors
    Sarif,
}

/// What is asked of `test`.
#[derive(Debug, clap::Args)]
struct Tested {
    /// Playtest files, or folders with `*.playtest.toml` files
    #[arg(required = true)]
    paths: Vec<PathBuf>,
    /// Only playtests with this text in their path
    #[arg(long, value_name = "TEXT")]
    filter: Option<String>,
    /// Ticks a second, instead of the scene's
    #[arg(long, value_name = "HZ", value_parser = clap::value_parser!(u32).range(1..=10_000))]
    rate: Option<u32>,
    /// Play at each of these rates and compare, as in 15,60,240
    #[arg(long, value_name = "HZ,HZ", value_delimiter = ',', conflicts_with = "rate",
          value_parser = clap::value_parser!(u32).range(1..=10_000))]
    rates: Vec<u32>,
    /// Play this many times with slightly different starts and acts, and say what that decides
    #[arg(long, value_name = "N", value_parser = clap::value_parser!(u64).range(1..=100_000))]
    seeds: Option<u64>,
    /// Say what has been tried of the scene; with a file, write that there as JSON too
    #[arg(long, value_name = "FILE", num_args = 0..=1, require_equals = true,
          default_missing_value = "-")]
    coverage: Option<PathBuf>,
    /// Write the results as `JUnit` XML
    #[arg(long, value_name = "FILE")]
    junit: Option<PathBuf>,
    /// Only each n-th playtest, beginning with the i-th: to share the work
    #[arg(long, value_name = "I/N", value_parser = shard, default_value = "1/1",
          hide_default_value = true)]
    shard: (usize, usize),
    /// Accept the log of this run as the one expected, for playtests that have a `log`
    #[arg(long)]
    update: bool,
    /// Print this value whenever it changes: an expression, or `NAME: EXPRESSION` for `who`
    #[arg(long, value_name = "EXPR")]
    watch: Vec<String>,
}

/// What is asked of `scout`.
#[derive(Debug, clap::Args)]
struct Scouts {
    /// A scene file
    scene: PathBuf,
    /// Write a playtest for each finding to this folder
    #[arg(long, value_name = "FOLDER")]
    out: Option<PathBuf>,
    /// Also try combinations of visits, for this many minutes of play
    #[arg(long, value_name = "M", value_parser = minutes)]
    minutes: Option<f64>,
    /// What the combinations come from
    #[arg(long, value_name = "N", default_value_t = 1)]
    seed: u64,
}

/// What is asked of `why`.
#[derive(Debug, clap::Args)]
struct Asked {
    /// A playtest file
    playtest: PathBuf,
    /// The event, as in `enter`
    event: String,
    /// Its detector, or the name of a cue
    on: Option<String>,
    /// Its subject [default: every subject it could have]
    who: Option<String>,
    /// Count only what happens from this second on
    #[arg(long, value_name = "S", value_parser = seconds)]
    from: Option<f64>,
    /// Count only what happens until this second
    #[arg(long, value_name = "S", value_parser = seconds)]
    until: Option<f64>,
    /// Ticks a second, instead of the scene's
    #[arg(long, value_name = "HZ", value_parser = clap::value_parser!(u32).range(1..=10_000))]
    rate: Option<u32>,
    /// Print the answer as JSON
    #[arg(long)]
    json: bool,
}

/// What is asked of `draw`.
#[derive(Debug, clap::Args)]
struct Drawing {
    /// A scene or playtest file
    path: PathBuf,
    /// The file to write: a picture (.svg, .png) or a report page (.html)
    #[arg(short, long, value_name = "FILE")]
    out: PathBuf,
    /// From which side, or the timeline
    #[arg(long, value_enum, default_value_t)]
    view: Shown,
    /// The moment to draw, in seconds, without what went before
    #[arg(long, value_name = "S", value_parser = seconds, conflicts_with_all = ["from", "until"])]
    at: Option<f64>,
    /// Draw ways and events from this second on
    #[arg(long, value_name = "S", value_parser = seconds)]
    from: Option<f64>,
    /// Draw how it is at this second, and ways and events until then [default: the end]
    #[arg(long, value_name = "S", value_parser = seconds)]
    until: Option<f64>,
    /// Only these: a name, `kind:NAME` or `tag:NAME`
    #[arg(long, value_name = "WHAT")]
    only: Vec<String>,
    /// Only what is around this entity
    #[arg(long, value_name = "NAME")]
    around: Option<String>,
    /// How far around, in metres
    #[arg(long, value_name = "M", value_parser = metres, requires = "around")]
    within: Option<f64>,
    /// Width and height in pixels
    #[arg(long, value_name = "WxH", value_parser = draw::size, default_value = "1280x800")]
    size: (u32, u32),
    /// On dark ground
    #[arg(long)]
    dark: bool,
}

/// What a picture shows.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, ValueEnum)]
enum Shown {
    /// From above, north up
    #[default]
    Top,
    /// From the south
    Front,
    /// From the east
    Side,
    /// From all three sides
    All,
    /// What happened when, a row for each detector
    Timeline,
}

impl Shown {
    fn words(self) -> &'static str {
        match self {
            Self::Top => "a view from above",
            Self::Front => "a view from the south",
            Self::Side => "a view from the east",
            Self::All => "three views",
            Self::Timeline => "a timeline",
        }
    }
}

/// How much a log tells.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, ValueEnum)]
enum LogLevel {
    /// What was detected
    #[default]
    Events,
    /// And what was done about it
    Actions,
    /// And what was refused, and what went wrong
    All,
    /// And what became of what takes time: reactions that wait, effects, what was brought out
    Runs,
}

/// How a command ended.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
enum Ending {
    /// Nothing to complain about.
    Fine = 0,
    /// Findings, or an expectation not met.
    Findings = 1,
    /// Bad usage, or input that cannot be read.
    Unreadable = 2,
    /// The terminal has gone away.
    HungUp = 129,
    /// Cut short by Ctrl-C.
    Interrupted = 130,
    /// Cut short by Ctrl-\\.
    Quit = 131,
    /// Cut short by another program.
    Terminated = 143,
}

impl Ending {
    /// As shells number what a signal ends.
    fn by_signal(signal: i32) -> Self {
        match signal {
            signal_hook::consts::SIGINT => Self::Interrupted,
            signal_hook::consts::SIGTERM => Self::Terminated,
            1 => Self::HungUp,
            _ => Self::Quit,
        }
    }
}

fn main() -> ExitCode {
    // On misuse clap explains on standard error and ends with 2; on help, with 0.
    let Arguments { command, root } = Arguments::parse();
    let access = &root.map_or_else(FileAccess::default, FileAccess::below);
    let ending = match command {
        Command::Demo { play, all } => demo::demo(play, all),
        Command::Check { paths, explain, .. } if !explain.is_empty() => {
            explain::explain(&paths, access, &explain)
        }
        Command::Check { paths, apply: true, .. } => check::check_and_apply(&paths, access),
        Command::Check { paths, format, .. } => check::check(&paths, access, format),
        Command::Run { path, log, log_level, rate, seconds, watch, event, about } => {
            let level = match log_level {
                LogLevel::Events => Level::Events,
                LogLevel::Actions => Level::Actions,
                LogLevel::All => Level::All,
                LogLevel::Runs => Level::Runs,
            };
            let only = (&*event, &*about);
            run::run((&path, access), (log.as_deref(), level), (rate, seconds), &watch, only)
        }
        Command::Test(asked) => test::test(&asked, access),
        Command::Why(asked) => why::why(&asked, access),
        Command::Scout(asked) => scout::scout(&asked, access),
        Command::Play { path, watch, rate, record } => {
            play::play((&path, access), (&watch, rate), record.as_deref())
        }
        Command::Host(asked) => host::host(&asked, access),
        Command::Join(asked) => join::join(&asked, access),
        Command::Draw(asked) => draw::draw(&asked, access),
    };
    ExitCode::from(ending as u8)
}

fn shard(text: &str) -> Result<(usize, usize), String> {
    let parts = text.split_once('/').and_then(|(i, n)| Some((i.parse().ok()?, n.parse().ok()?)));
    match parts {
        Some((i, n)) if (1..=n).contains(&i) => Ok((i, n)),
        _ => Err("not a share such as 1/3".into()),
    }
}

fn minutes(text: &str) -> Result<f64, String> {
    match text.parse::<f64>() {
        Ok(minutes) if (0.0..=1440.0).contains(&minutes) => Ok(minutes),
        _ => Err("not a number of minutes from 0 to 1440".into()),
    }
}

fn metres(text: &str) -> Result<f64, String> {
    match text.parse::<f64>() {
        Ok(metres) if (0.01..=1e6).contains(&metres) => Ok(metres),
        _ => Err("not a number of metres from 0.01 to 1000000".into()),
    }
}

fn seconds(text: &str) -> Result<f64, String> {
    match text.parse::<f64>() {
        Ok(seconds) if (0.0..=86_400.0).contains(&seconds) => Ok(seconds),
        _ => Err("not a number of seconds from 0 to 86400".into()),
    }
}
