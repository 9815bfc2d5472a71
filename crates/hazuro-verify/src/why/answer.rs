//! Answers: plain data.

use hazuro::Scene;
use hazuro::why::Verdict;
use serde::Serialize;

/// Why an event happened, or why not.
///
/// See [`Question`](super::Question) for an example.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct Answer {
    /// What was asked, in words.
    pub question: String,
    /// How long was played, in seconds.
    pub seconds: f64,
    /// Each time it happened, in order.
    pub fired: Vec<Firing>,
    /// Each who could have been its subject, in the scene's order.
    pub candidates: Vec<Candidate>,
    /// What else there is to say, in words.
    pub notes: Vec<String>,
}

/// One time that the event happened.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct Firing {
    /// When, in seconds.
    pub t: f64,
    /// The subject.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub who: Option<String>,
    /// Which part of it.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub part: Option<String>,
    /// Why it began or ended.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub cause: Option<&'static str>,
    /// What it came of, the nearest first, back to the tape or the start.
    pub came_of: Vec<Link>,
    /// The events that came of it, in the order in which they happened.
    pub led_to: Vec<Link>,
    /// What each reaction did that waits for it, in order.
    pub reactions: Vec<Reacted>,
}

/// One link of a chain of causes.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct Link {
    /// When, in seconds.
    pub t: f64,
    /// The number of its entry in the log; none for what stands outside of it.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub n: Option<u64>,
    /// What happened, in words.
    pub what: String,
    /// Where it stands: a file and a line.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub place: Option<String>,
}

/// What one reaction made of an event.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct Reacted {
    /// The reaction, in words.
    pub reaction: String,
    /// The gate that stopped it.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub miss: Option<Miss>,
    /// What it did, was refused, or failed at, each with its time.
    pub did: Vec<(f64, String)>,
}

/// One who could have been the subject.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct Candidate {
    /// Who.
    pub who: String,
    /// How often it happened with it.
    pub fired: usize,
    /// The gates of the best attempt, in order, to the first that did not let pass.
    pub gates: Vec<GateSeen>,
    /// What stopped it, if it never happened.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub miss: Option<Miss>,
}

/// One gate that was tried.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct GateSeen {
    /// Its short name.
    pub gate: &'static str,
    /// What it asks.
    pub asks: &'static str,
    /// Whether it let pass.
    pub passed: bool,
}

/// A gate that did not let pass.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct Miss {
    /// Its short name.
    pub gate: &'static str,
    /// What it asks.
    pub asks: &'static str,
    /// What it saw.
    pub saw: String,
    /// When it came closest, in seconds.
    pub t: f64,
    /// How much was missing, if that is a number.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub amount: Option<f64>,
    /// In what that is: `m`, `degrees`, `s`, `m/s` or `%`.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub unit: Option<&'static str>,
    /// What would let it pass.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub cure: Option<String>,
}

impl Miss {
    pub(crate) fn of(scene: &Scene, verdict: &Verdict) -> Self {
        let missing = verdict.missing().map(hazuro::why::Missing::amount);
        Self {
            gate: verdict.gate.code(),
            asks: verdict.gate.words(),
            saw: verdict.reason(scene),
            t: micros(verdict.nearest().secs()),
            amount: missing.map(|(amount, _)| micros(amount)),
            unit: missing.map(|(_, unit)| unit),
            cure: verdict.cure(scene),
        }
    }

    /// As [`line`](Self::line), with the gate between quotes, for the middle of a sentence.
    pub(super) fn quoted(&self) -> String {
        let colon = if self.saw.is_empty() { "" } else { ": " };
        format!("\"{}\"{colon}{}", self.asks, self.saw)
    }

    /// In one line: the gate, and what it saw.
    pub fn line(&self) -> String {
        let colon = if self.saw.is_empty() { "" } else { ": " };
        format!("{}{colon}{}", self.asks, self.saw)
    }
}

impl Answer {
    /// Who came nearest without making it happen: whom it was asked about, or else who got
    /// farthest through the gates.
    pub fn nearest(&self) -> Option<&Candidate> {
        let missed = self.candidates.iter().filter(|it| it.fired == 0 && it.miss.is_some());
        let passed = |it: &&Candidate| it.gates.iter().filter(|gate| gate.passed).count();
        // Of equals the first.
        missed.rev().max_by_key(passed)
    }
}

/// A number to six places.
pub(super) fn micros(number: f64) -> f64 {
    (number * 1e6).round() / 1e6 + 0.0
}
