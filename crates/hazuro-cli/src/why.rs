//! `hazuro why`: why an event of a playtest happened, or why not.

use hazuro_format::{Code, FileAccess, Finding, Severity};
use hazuro_verify::{
    Answer, Candidate, Firing, Link, Miss, Playtest, Question, explain, load_with,
};

use crate::output::{coloured, paint, report, say};
use crate::{Asked, Ending};

/// Plays a playtest with a witness and says what it heard.
pub fn why(asked: &Asked, access: &FileAccess) -> Ending {
    let loaded = match load_with(&asked.playtest, access) {
        Ok(loaded) => loaded,
        Err(findings) => return report(&findings),
    };
    let Some(playtest) = &loaded.playtest else {
        let message = format!("`{}` is a scene, not a playtest", asked.playtest.display());
        let finding = Finding::new(Severity::Error, Code::NoPlaytest, message)
            .with_help("write a playtest with a `tape` of what is done, and ask about that");
        return report(&[finding]);
    };
    let question = match question(asked, playtest) {
        Ok(question) => question,
        Err(finding) => return report(&[finding]),
    };
    let answer = explain(playtest, &question);
    if asked.json {
        match serde_json::to_string_pretty(&answer) {
            Ok(text) => say!("{text}"),
            Err(error) => {
                return report(&[Finding::new(
                    Severity::Error,
                    Code::Unwritable,
                    error.to_string(),
                )]);
            }
        }
    } else {
        print(&answer, question.who.is_some());
    }
    Ending::Fine
}

fn question(asked: &Asked, playtest: &Playtest) -> Result<Question, Finding> {
    let scene = playtest.scene();
    let (on, who) = (asked.on.as_deref(), asked.who.as_deref());
    let question =
        Question::new(scene, &asked.event, on, who).map_err(|fault| Finding::of_fault(&fault))?;
    if on.is_none() && asked.event != "start" {
        let message = format!("`{}` of what?", asked.event);
        let help = "name its detector: hazuro why PLAYTEST EVENT ON [WHO]";
        return Err(Finding::new(Severity::Error, Code::MissingKey, message).with_help(help));
    }
    let time = hazuro::Time::from_secs;
    Ok(Question {
        from: asked.from.map_or(question.from, time),
        until: asked.until.map_or(question.until, time),
        rate: asked.rate,
        ..question
    })
}

/// The most firings that are told in full.
const FULL: usize = 6;

fn print(answer: &Answer, about_one: bool) {
    let colour = coloured(&std::io::stdout());
    let times = match answer.fired.len() {
        0 => "never".into(),
        1 => "once".into(),
        times => format!("{times} times"),
    };
    let head = format!("{}: {times}, in {} s", answer.question, answer.seconds);
    say!("{}", paint(colour, "1", &head));
    if about_one {
        for candidate in answer.candidates.iter().filter(|it| it.fired == 0) {
            say!("");
            print_gates(candidate, colour);
        }
    } else if !answer.candidates.is_empty() {
        say!("");
        print_table(&answer.candidates, colour);
    }
    for firing in answer.fired.iter().take(FULL) {
        say!("");
        print_firing(firing, colour);
    }
    if answer.fired.len() > FULL {
        say!("");
        let more: Vec<String> =
            answer.fired[FULL..].iter().map(|firing| format!("{}", firing.t)).take(20).collect();
        let dots = if answer.fired.len() > FULL + 20 { " ..." } else { "" };
        say!("  and at {} s{dots}", more.join(", "));
    }
    if !answer.notes.is_empty() {
        say!("");
    }
    for note in &answer.notes {
        say!("  note  {note}");
    }
}

/// The gates of one who could have been the subject, and what was missing.
fn print_gates(candidate: &Candidate, colour: bool) {
    for gate in &candidate.gates {
        let (sign, code) = if gate.passed { ("✓", "32") } else { ("✗", "1;31") };
        let miss = candidate.miss.as_ref().filter(|_| !gate.passed);
        let asks = miss.map_or_else(|| gate.asks.to_owned(), Miss::line);
        say!("  {} {asks}", paint(colour, code, sign));
    }
    let Some(miss) = &candidate.miss else {
        say!("  all gates passed, but the event was not told: it was detected before");
        return;
    };
    say!("");
    say!("  nearest  at {} s", miss.t);
    if let (Some(amount), Some(unit)) = (miss.amount, miss.unit)
        && amount.is_finite()
    {
        say!("  missing  {amount} {unit}");
    }
    if let Some(cure) = &miss.cure {
        say!("  cure     {cure}");
    }
}

/// All who could have been the subject: a line each, those alike in one.
fn print_table(candidates: &[Candidate], colour: bool) {
    let mut alike: Vec<(Vec<&str>, &Candidate)> = Vec::new();
    for candidate in candidates {
        let same = alike.iter_mut().find(|(_, other)| {
            let told = |it: &Candidate| it.miss.as_ref().map(|miss| (miss.line(), miss.t));
            candidate.fired == 0 && other.fired == 0 && told(other) == told(candidate)
        });
        match same {
            Some((names, _)) => names.push(&candidate.who),
            None => alike.push((vec![&candidate.who], candidate)),
        }
    }
    let named = |names: &[&str]| match names {
        [one] => (*one).to_owned(),
        [one, other] => format!("{one}, {other}"),
        [one, rest @ ..] => format!("{one} and {} more", rest.len()),
        [] => String::new(),
    };
    let widths = alike.iter().map(|(names, _)| named(names).chars().count());
    let longest = widths.max().unwrap_or(0).max(7);
    let (fired, nearest, missing) = ("fired", "nearest", "missing");
    let head = format!(
        "  {:<longest$}  {fired:>5}  {nearest:>9}  {missing:>12}  what stopped it",
        "subject"
    );
    say!("{}", paint(colour, "1", &head));
    for (names, candidate) in &alike {
        let fired = if candidate.fired == 0 { "-".into() } else { candidate.fired.to_string() };
        let who = named(names);
        let (mut nearest, mut missing, mut stopped) = (String::new(), String::new(), String::new());
        if let Some(miss) = &candidate.miss {
            nearest = format!("{:.3}", miss.t);
            let amount = miss.amount.filter(|amount| amount.is_finite()).zip(miss.unit);
            missing =
                amount.map_or_else(String::new, |(amount, unit)| format!("{amount:.3} {unit}"));
            stopped = format!("✗ {}", miss.line());
        }
        let line = format!("  {who:<longest$}  {fired:>5}  {nearest:>9}  {missing:>12}  {stopped}");
        say!("{}", line.trim_end());
    }
}

fn print_firing(firing: &Firing, colour: bool) {
    let mut how: Vec<String> = Vec::new();
    how.extend(firing.who.clone());
    how.extend(firing.cause.map(|cause| format!("cause {cause}")));
    how.extend(firing.part.as_ref().map(|part| format!("part {part}")));
    say!("  {} {}", paint(colour, "1", &format!("{:.6}", firing.t)), how.join(", "));
    for link in &firing.came_of {
        say!("    ← {}", told(link));
    }
    for reacted in &firing.reactions {
        match &reacted.miss {
            None => say!("    {} reacts", reacted.reaction),
            Some(miss) => {
                say!("    {} {}: {}", paint(colour, "1;31", "✗"), reacted.reaction, miss.line());
                if let Some(cure) = &miss.cure {
                    say!("      cure: {cure}");
                }
            }
        }
        for (time, did) in &reacted.did {
            let at = if *time > firing.t { format!("{time:.6}  ") } else { String::new() };
            say!("      {at}{did}");
        }
    }
    for link in firing.led_to.iter().take(FULL) {
        say!("    ⇒ {}", told(link));
    }
    if firing.led_to.len() > FULL {
        say!("    ⇒ and {} more events", firing.led_to.len() - FULL);
    }
}

/// A link of a chain, in a line.
fn told(link: &Link) -> String {
    let place = link.place.as_ref().map_or(String::new(), |place| format!("  ({place})"));
    format!("{:>10.6}  {}{place}", link.t, link.what)
}
