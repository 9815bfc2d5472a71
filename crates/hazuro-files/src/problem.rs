//! Where in a scene file a problem of a play comes from.

use hazuro::scene::Field;
use hazuro::{By, Problem, Scene};

use crate::finding::{Finding, Severity};
use crate::source::Source;
use crate::spans::Spans;

/// A problem that came up while playing, at its place in the text of the scene.
pub fn locate_problem(source: &Source, scene: &Scene, by: By, problem: &Problem) -> Finding {
    let (severity, code, key, help) = match problem {
        Problem::Condition(_) => (
            Severity::Error,
            "condition-failed",
            "if",
            "a condition that fails counts as not holding",
        ),
        Problem::NobodyMeant { .. } => (
            Severity::Warning,
            "nobody-meant",
            "do",
            "name the entity, or send the cue from a detector's reaction",
        ),
        Problem::Circle(_) => (
            Severity::Warning,
            "circle",
            "on",
            "let one of them wait (`after`), or give it an `if` that ends the circle",
        ),
        Problem::Score(_) => {
            (Severity::Error, "score-failed", "seeker", "a score that fails counts as the worst")
        }
        Problem::Handler(_) => (Severity::Error, "handler-failed", "do", "see the function"),
        Problem::Panic(_) => {
            (Severity::Error, "handler-panicked", "do", "what it had done by then stays done")
        }
        Problem::NoRoutine(_) => {
            (Severity::Error, "unknown-name", "do", "give the play a routine of this name")
        }
        Problem::TooDeep(_) => (Severity::Error, "too-deep", "do", "let one of them do without"),
    };
    let finding = Finding::new(severity, code, problem.describe(scene)).with_help(help);
    match (by, Spans::of(source)) {
        (By::Reaction(reaction), Some(spans)) => {
            let field = Field::ROOT.key("reaction").item(reaction.index()).key(key);
            finding.at(source, spans.find(&field))
        }
        (By::Detector(on), Some(spans)) => {
            let key = if key == "if" { "admit" } else { key };
            let field = Field::ROOT.key("entity").item(on.index()).key(key);
            finding.at(source, spans.find(&field))
        }
        _ => finding,
    }
}
