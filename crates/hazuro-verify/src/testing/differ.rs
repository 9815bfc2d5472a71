//! How two plays differ, told as events.

use std::fmt;

use hazuro::{Entry, Play};
use hazuro_format::{Level, write_log};
use serde_json::Value;
use similar::{Algorithm, DiffOp, capture_diff_slices};

/// One difference between an expected log and another.
#[derive(Clone, Debug, PartialEq)]
pub enum Difference {
    /// It was expected and did not happen.
    Missing {
        /// When, in seconds.
        t: f64,
        /// What, in words.
        what: String,
    },
    /// It happened and was not expected.
    Extra {
        /// When, in seconds.
        t: f64,
        /// What, in words.
        what: String,
    },
    /// It happened otherwise: at another time, or with another value.
    Otherwise {
        /// What, in words.
        what: String,
        /// The key that has another value.
        key: String,
        /// The value expected.
        was: String,
        /// The value now.
        is: String,
    },
}

impl fmt::Display for Difference {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::Missing { t, what } => write!(f, "missing  {t:>10.6}  {what}"),
            Self::Extra { t, what } => write!(f, "extra    {t:>10.6}  {what}"),
            Self::Otherwise { what, key, was, is } => {
                write!(f, "changed              {what}: {key} {was} → {is}")
            }
        }
    }
}

/// How what happened in one play differs from what happened in another of the same scene; ticks do
/// not count. Empty if it does not.
pub fn differences(play: &Play, expected: &[Entry], got: &[Entry]) -> Vec<Difference> {
    let log = |entries: &[Entry]| {
        let mut log = Vec::new();
        // Writing to memory cannot fail.
        let _ = write_log(&mut log, play, entries, Level::All);
        String::from_utf8(log).unwrap_or_default()
    };
    differences_of_logs(&log(expected), &log(got))
}

/// How one log differs from another; headers, ticks and numbers do not count. Empty if it does not.
///
/// ```
/// use hazuro_verify::differences_of_logs;
/// let was = "{\"hazuro_log\":1}\n{\"t\":1.5,\"tick\":90,\"event\":\"cue\",\"cue\":\"open\"}\n";
/// let is = was.replace("1.5", "2.5").replace("90", "150");
/// let differences = differences_of_logs(was, &is);
/// assert_eq!(differences[0].to_string().trim_start_matches("changed").trim(), "cue open: t 1.5 → 2.5");
/// ```
pub fn differences_of_logs(expected: &str, got: &str) -> Vec<Difference> {
    let [was, is] = [expected, got].map(lines);
    let words = |lines: &[Value]| lines.iter().map(words).collect::<Vec<String>>();
    let (was_words, is_words) = (words(&was), words(&is));
    let mut all = Vec::new();
    for op in capture_diff_slices(Algorithm::Myers, &was_words, &is_words) {
        let missing = |range: std::ops::Range<usize>| {
            let line = |index: usize| Difference::Missing {
                t: time(&was[index]),
                what: was_words[index].clone(),
            };
            range.map(line).collect::<Vec<_>>()
        };
        let extra = |range: std::ops::Range<usize>| {
            let line = |index: usize| Difference::Extra {
                t: time(&is[index]),
                what: is_words[index].clone(),
            };
            range.map(line).collect::<Vec<_>>()
        };
        match op {
            DiffOp::Equal { old_index, new_index, len } => {
                for offset in 0..len {
                    let (old, new) = (&was[old_index + offset], &is[new_index + offset]);
                    all.extend(otherwise(old, new, &was_words[old_index + offset]));
                }
            }
            DiffOp::Delete { .. } => all.extend(missing(op.old_range())),
            DiffOp::Insert { .. } => all.extend(extra(op.new_range())),
            DiffOp::Replace { .. } => {
                all.extend(missing(op.old_range()));
                all.extend(extra(op.new_range()));
            }
        }
    }
    all
}

/// The lines of a log but for its header.
fn lines(log: &str) -> Vec<Value> {
    let lines = log.lines().filter_map(|line| serde_json::from_str::<Value>(line).ok());
    lines.filter(|line| line.get("hazuro_log").is_none()).collect()
}

fn time(line: &Value) -> f64 {
    line["t"].as_f64().unwrap_or_default()
}

/// The keys that make an event what it is; in all else it can be otherwise.
const NAMES: [&str; 15] = [
    "event",
    "did",
    "said",
    "stopped",
    "halted",
    "refused",
    "problem",
    "printed",
    "run",
    "expired",
    "taken_back",
    "on",
    "cue",
    "what",
    "who",
];

/// How entries are numbered says nothing about what happened.
const NUMBERS: [&str; 3] = ["tick", "n", "of"];

/// What an older log does not tell.
const NEWER: [&str; 2] = ["step", "why"];

/// What a line tells, without when and where.
fn words(line: &Value) -> String {
    let words = NAMES.iter().chain(&["with"]).filter_map(|key| {
        let word = line.get(*key)?.as_str()?;
        let told = matches!(*key, "event" | "on" | "who" | "cue" | "what" | "with");
        Some(if told { word.to_owned() } else { format!("{key} {word}") })
    });
    words.collect::<Vec<String>>().join(" ")
}

/// In what two lines about the same differ.
fn otherwise(was: &Value, is: &Value, what: &str) -> Option<Difference> {
    let (old, new) = (was.as_object()?, is.as_object()?);
    let keys = old.keys().chain(new.keys().filter(|key| !old.contains_key(*key)));
    let counts = |key: &&String| {
        let untold = NEWER.contains(&key.as_str()) && !old.contains_key(*key);
        !NUMBERS.contains(&key.as_str()) && !untold
    };
    let key = keys.filter(counts).find(|key| old.get(*key) != new.get(*key))?;
    let value = |of: &serde_json::Map<String, Value>| {
        of.get(key).map_or("nothing".into(), |value| match value.as_str() {
            Some(text) => text.to_owned(),
            None => value.to_string(),
        })
    };
    Some(Difference::Otherwise {
        what: what.into(),
        key: key.clone(),
        was: value(old),
        is: value(new),
    })
}
