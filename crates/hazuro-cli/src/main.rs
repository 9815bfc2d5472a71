//! The `hazuro` command: arguments in, text out, nothing else.

mod check;
mod demo;
mod files;
mod output;
mod run;
mod test;
mod why;

use std::path::PathBuf;
use std::process::ExitCode;

use clap::{Parser, Subcommand, ValueEnum};
use hazuro_files::Level;

/// Finds out who set off what in a game scene, exactly when, and why not.
#[derive(Debug, Parser)]
#[command(name = "hazuro", version, arg_required_else_help = true, max_term_width = 100)]
struct Arguments {
    #[command(subcommand)]
    command: Command,
}

#[derive(Debug, Subcommand)]
enum Command {
    /// Plays the shipped demo end to end and shows what it detected
    Demo,
    /// Lists what is wrong or suspicious in scenes and playtests
    Check {
        /// Scene and playtest files
        #[arg(required = true)]
        paths: Vec<PathBuf>,
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
    },
    /// Says why an event of a playtest happened, or why not
    Why(Asked),
    /// Runs playtests and says which expectations were met
    Test {
        /// Playtest files, or folders with `*.playtest.toml` files
        #[arg(required = true)]
        paths: Vec<PathBuf>,
        /// Ticks a second, instead of the scene's
        #[arg(long, value_name = "HZ", value_parser = clap::value_parser!(u32).range(1..=10_000))]
        rate: Option<u32>,
    },
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
    /// Its subject; all that could be unless given
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
}

fn main() -> ExitCode {
    // On misuse clap explains on standard error and ends with 2; on help, with 0.
    let Arguments { command } = Arguments::parse();
    let ending = match command {
        Command::Demo => demo::demo(),
        Command::Check { paths } => check::check(&paths),
        Command::Run { path, log, log_level, rate, seconds } => {
            let level = match log_level {
                LogLevel::Events => Level::Events,
                LogLevel::Actions => Level::Actions,
                LogLevel::All => Level::All,
            };
            run::run(&path, (log.as_deref(), level), rate, seconds)
        }
        Command::Test { paths, rate } => test::test(&paths, rate),
        Command::Why(asked) => why::why(&asked),
    };
    ExitCode::from(ending as u8)
}

fn seconds(text: &str) -> Result<f64, String> {
    match text.parse::<f64>() {
        Ok(seconds) if (0.0..=86_400.0).contains(&seconds) => Ok(seconds),
        _ => Err("not a number of seconds from 0 to 86400".into()),
    }
}
