//! Where in a scene file or script a problem of a play comes from.

use hazuro::scene::Field;
use hazuro::{By, Entry, Event, Happening, Problem, Scene};
use hazuro_format::{Code, Finding, Severity, Source, Spans};

use crate::script::Scripts;

/// What went wrong while playing, at its place in the text of the scene or of its script: a
/// problem, or an action refused because of a mistake in the scene. None for all else that
/// happens.
pub fn locate_problem(
    source: &Source,
    scripts: &Scripts,
    scene: &Scene,
    entry: &Entry,
) -> Option<Finding> {
    match &entry.what {
        Happening::Problem { by, problem, event, .. } => {
            let cause = event.as_ref().map(|event| happened(scene, event));
            Some(located(source, scripts, scene, *by, problem, cause.as_deref()))
        }
        Happening::Refused { by, action, why, .. } if why.is_mistake() => {
            let target = action.target().map_or("it", |(target, _)| scene.name(*target));
            let word = action.word();
            let message = format!("`{word}` is not done to `{target}`: {}", why.words(scene));
            let help = origin(*by, scene);
            let finding = Finding::new(Severity::Warning, Code::Unable, message).with_help(help);
            Some(at(finding, source, *by, "do"))
        }
        _ => None,
    }
}

fn located(
    source: &Source,
    scripts: &Scripts,
    scene: &Scene,
    by: By,
    problem: &Problem,
    cause: Option<&str>,
) -> Finding {
    let (severity, code, key, help) = match problem {
        Problem::Condition(_) => (
            Severity::Error,
            Code::ConditionFailed,
            "if",
            "a condition that fails counts as not holding",
        ),
        Problem::NobodyMeant { .. } => (
            Severity::Warning,
            Code::NobodyMeant,
            "do",
            "name the entity, or send the cue from a detector's reaction",
        ),
        Problem::NoPoint => (
            Severity::Warning,
            Code::NoPoint,
            "do",
            "a pointer has one where anything is under it: let a zone or solid behind the rest catch it",
        ),
        Problem::Circle(_) => (
            Severity::Warning,
            Code::Circle,
            "on",
            "let one of them wait (`after`), or give it an `if` that ends the circle",
        ),
        Problem::NotInPlay(_) => (
            Severity::Warning,
            Code::NotInPlay,
            "do",
            "let it happen while it is in the play, or bring it back with `reset` or `spawn`",
        ),
        Problem::InPlay(_) => {
            (Severity::Warning, Code::InPlay, "do", "take it out of the play first")
        }
        Problem::EndlessWay(_) => (
            Severity::Warning,
            Code::EndlessWay,
            "route",
            "move its stops apart, or let it `wait` at one of them",
        ),
        Problem::TooManyRuns => {
            (Severity::Error, Code::TooManyRuns, "on", "let it begin less often, or end sooner")
        }
        Problem::TooManyActions => {
            (Severity::Error, Code::TooManyActions, "do", "does it set itself off again and again?")
        }
        Problem::Formula { key, .. } => (
            Severity::Error,
            Code::FormulaFailed,
            *key,
            "without this number the reaction does not begin, or ends here",
        ),
        Problem::BadAction(_) => {
            (Severity::Error, Code::BadAction, "do", "what came before it stays done")
        }
        Problem::Score(_) => {
            (Severity::Error, Code::ScoreFailed, "seeker", "a score that fails counts as the worst")
        }
        Problem::Handler(_) => {
            (Severity::Error, Code::FunctionFailed, "do", "what it had done by then stays done")
        }
        Problem::Panic(_) => {
            (Severity::Error, Code::FunctionPanicked, "do", "what it had done by then stays done")
        }
        Problem::NoRoutine(_) => {
            (Severity::Error, Code::UnknownName, "do", "give the play a routine of this name")
        }
        Problem::TooDeep(_) => {
            (Severity::Error, Code::TooDeep, "do", "let a function call another itself instead")
        }
    };
    let led = cause.map_or(String::new(), |cause| format!("; {cause} led there"));
    let origin = match problem {
        // A route goes by itself.
        Problem::EndlessWay(_) => String::new(),
        _ => format!("; {}", origin(by, scene)),
    };
    let help = format!("{help}{origin}{led}");
    let finding = Finding::new(severity, code, problem.describe(scene)).with_help(help);
    if let Problem::Handler(failure) = problem
        && let Some(place) = &failure.place
        && let Some(script) = scripts.source(&place.file)
    {
        return finding.at(script, script.word_at(place.line, place.column));
    }
    if let Problem::EndlessWay(what) = problem {
        let field = scene.field(*what).key(key);
        return Spans::of(source).map_or(finding.clone(), |it| finding.at(source, it.find(&field)));
    }
    at(finding, source, by, key)
}

/// Whose doing it was.
fn origin(by: By, scene: &Scene) -> String {
    match by {
        By::Host => "it comes from the tape or the host".into(),
        _ => format!("in {}", by.describe(scene)),
    }
}

/// The finding at a key of whoever did it.
fn at(finding: Finding, source: &Source, by: By, key: &str) -> Finding {
    let Some(spans) = Spans::of(source) else { return finding };
    let field = match by {
        By::Reaction(reaction) => Field::ROOT.key("reaction").item(reaction.index()).key(key),
        By::Detector(on) => {
            let key = if key == "if" { "admit" } else { key };
            Field::ROOT.key("entity").item(on.index()).key(key)
        }
        By::Handler(_) | By::Host => return finding,
    };
    finding.at(source, spans.find(&field))
}

/// An event in words.
fn happened(scene: &Scene, event: &Event) -> String {
    let on = event.cue.as_deref().or_else(|| event.on.map(|on| scene.name(on)));
    let on = on.map_or(String::new(), |on| format!(" {on}"));
    let who = event.who.map_or(String::new(), |who| format!(" by {}", scene.name(who)));
    format!("`{}{on}`{who} at {} s", event.kind, event.time)
}
