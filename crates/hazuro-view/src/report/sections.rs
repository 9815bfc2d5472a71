//! The sections of a page, as HTML that can be read without scripts.

use std::fmt::Write;

use hazuro::scene::Scene;
use hazuro::why::History;
use hazuro::{EntityId, Entry, Happening, Origin, Time};
use hazuro_format::{Finding, Severity};
use hazuro_verify::{CoverageTable, Loaded, Outcome, Playtest, Share, came_of};

use super::Report;
use crate::picture::escape;
use crate::theme::Mark;

pub(super) fn head(report: &Report<'_>) -> String {
    let scene = &report.loaded.scene;
    let met = report.outcomes.iter().filter(|outcome| outcome.met).count();
    let all = report.outcomes.len();
    let of = match &report.loaded.playtest {
        Some(playtest) => playtest.source().name(),
        None => report.loaded.source.name(),
    };
    let expectations = match all {
        0 => "no expectations".to_owned(),
        _ if met == all => format!("✓ all {all} expectations met"),
        _ => format!("✗ {} of {all} expectations not met", all - met),
    };
    let findings = match report.findings.len() {
        0 => "✓ no findings".to_owned(),
        1 => "1 finding".to_owned(),
        some => format!("{some} findings"),
    };
    let total = report.coverage.total.sum();
    let mut facts = vec![
        ("expectations", expectations),
        ("findings", findings),
        ("coverage", format!("{} tried", percent(total))),
        ("events", events_in_all(report)),
    ];
    if all == 0 {
        facts.remove(0);
    }
    let facts = facts.into_iter().fold(String::new(), |mut all, (to, words)| {
        let _ = write!(all, "<li><a href=\"#{to}\">{}</a></li>", escape(&words));
        all
    });
    format!(
        "<a class=\"skip\" href=\"#map\">to the map</a>\n<header>\n<h1>{}</h1>\n<p class=\"of\">{} at \
         {} ticks a second</p>\n<ul class=\"facts\">{facts}</ul>\n\
         <button id=\"ground\" class=\"scripted\" type=\"button\">light or dark</button>\n</header>\n<main>\n",
        escape(scene.title()),
        escape(of),
        scene.rate(),
    )
}

fn events_in_all(report: &Report) -> String {
    let (number, seconds) = (report.events(), report.until.secs());
    format!("{number} event{} in {seconds} s", if number == 1 { "" } else { "s" })
}

fn times(number: u64) -> String {
    if number == 1 { "once".into() } else { format!("{number} times") }
}

fn percent(share: Share) -> String {
    if share.all == 0 {
        return "nothing to be".into();
    }
    format!("{} %", share.done * 100 / share.all)
}

pub(super) fn map(still: &str, live: &str, until: Time) -> String {
    let seconds = until.secs();
    format!(
        "<section id=\"map\">\n<h2>Map</h2>\n<div class=\"stage\">\n<div class=\"maps\">\n\
         <div id=\"still\">{still}</div>\n<div id=\"live\" class=\"scripted\">{live}</div>\n\
         <div class=\"scripted transport\">\n<button id=\"run\" type=\"button\" \
         aria-label=\"play or pause\">▶</button>\n<button id=\"back\" type=\"button\" \
         aria-label=\"one event back\">◀ event</button>\n<input id=\"time\" type=\"range\" min=\"0\" \
         max=\"{seconds}\" step=\"0.01\" value=\"0\" aria-label=\"time in seconds\">\n\
         <button id=\"on\" type=\"button\" aria-label=\"one event on\">event ▶</button>\n\
         <output id=\"now\">0.00 s</output>\n</div>\n</div>\n\
         <aside id=\"side\" class=\"scripted\" aria-live=\"polite\"><p>Move the slider, or click an \
         event, a row or something on the map to see its events and its gates. Space plays, the \
         arrow keys step.</p></aside>\n</div>\n</section>\n"
    )
}

pub(super) fn timeline(chart: &str) -> String {
    format!(
        "<section id=\"timeline\">\n<h2>Timeline</h2>\n<div class=\"wide\">{chart}</div>\n</section>\n"
    )
}

pub(super) fn expectations(outcomes: &[Outcome], failures: &[String], lines: &[String]) -> String {
    if outcomes.is_empty() && failures.is_empty() && lines.is_empty() {
        return String::new();
    }
    let mut rows = String::new();
    for failure in failures {
        let _ = writeln!(
            rows,
            "<tr class=\"unmet\"><td>✗ failed</td><td>nothing goes wrong</td><td>{}</td><td></td></tr>",
            escape(failure)
        );
    }
    // What is not met comes first.
    for outcome in outcomes.iter().filter(|it| !it.met).chain(outcomes.iter().filter(|it| it.met)) {
        let (class, word) = if outcome.met { ("met", "✓ met") } else { ("unmet", "✗ not met") };
        let why = outcome.why.iter().fold(String::new(), |mut all, line| {
            let _ = write!(all, "<p>{}</p>", escape(line));
            all
        });
        let _ = writeln!(
            rows,
            "<tr class=\"{class}\"><td>{word}</td><td>{}</td><td>{}{why}</td><td class=\"n\">{}</td></tr>",
            escape(&outcome.expected),
            escape(&outcome.seen),
            outcome.line
        );
    }
    let lines = lines.iter().fold(String::new(), |mut all, line| {
        let _ = writeln!(all, "<li>{}</li>", escape(line));
        all
    });
    let lines = if lines.is_empty() {
        lines
    } else {
        format!("<h3>Players at desks of their own</h3>\n<ul>\n{lines}</ul>\n")
    };
    format!(
        "<section id=\"expectations\">\n<h2>Expectations</h2>\n<div class=\"wide\"><table>\n<thead><tr>\
         <th>outcome</th><th>expected</th><th>seen</th><th class=\"n\">line</th></tr></thead>\n<tbody>\n\
         {rows}</tbody></table></div>\n{lines}</section>\n"
    )
}

pub(super) fn findings(findings: &[Finding]) -> String {
    let mut items = String::new();
    for finding in findings {
        let sign = match finding.severity() {
            Severity::Error => "✗ error",
            Severity::Warning => "▲ warning",
            Severity::Hint => "· hint",
        };
        let place = finding.place().map_or(String::new(), |place| format!("{place}: "));
        let help = finding.help().map_or(String::new(), |help| format!("<p>{}</p>", escape(help)));
        let _ = writeln!(
            items,
            "<li><b>{sign}</b> <code>{}</code> {}{}{help}</li>",
            finding.code(),
            escape(&place),
            escape(finding.message())
        );
    }
    let list = if items.is_empty() {
        "<p>Nothing suspicious in the scene.</p>".to_owned()
    } else {
        format!("<ul class=\"findings\">\n{items}</ul>")
    };
    format!("<section id=\"findings\">\n<h2>Findings</h2>\n{list}\n</section>\n")
}

pub(super) fn coverage(table: &CoverageTable) -> String {
    let mut rows = String::new();
    for row in &table.detectors {
        let (class, sign, how) = if row.fired > 0 {
            let by: Vec<String> =
                row.by.iter().map(|(kind, times)| format!("{kind} {times}")).collect();
            ("met", "✓ fired", format!("{}: {}", times(row.fired), by.join(", ")))
        } else if let Some(miss) = &row.nearly {
            ("nearly", "△ nearly", miss.line())
        } else {
            ("unmet", "✗ never", "nobody admitted came near".to_owned())
        };
        let _ = writeln!(
            rows,
            "<tr class=\"{class}\"><td>{sign}</td><td>{} <small>{}</small></td><td>{}</td></tr>",
            escape(&row.on),
            row.detector,
            escape(&how)
        );
    }
    let mut reactions = String::new();
    for row in &table.reactions {
        let (class, sign) = if row.ran > 0 { ("met", "✓ ran") } else { ("unmet", "✗ never") };
        let mut how = vec![times(row.ran)];
        how.extend(
            row.condition.map(|(held, not)| format!("condition held {held}, did not {not}")),
        );
        let undone = row.actions.iter().filter(|(_, done, _)| *done == 0);
        let undone: Vec<&str> = undone.map(|(word, ..)| *word).collect();
        if !undone.is_empty() && row.ran > 0 {
            how.push(format!("never done: {}", undone.join(", ")));
        }
        let _ = writeln!(
            reactions,
            "<tr class=\"{class}\"><td>{sign}</td><td>{}</td><td>{}</td></tr>",
            escape(&row.reaction),
            escape(&how.join("; "))
        );
    }
    let total = &table.total;
    let line = |words: &str, share: Share| {
        format!("<li>{} of {} {words} ({})</li>", share.done, share.all, percent(share))
    };
    let totals = [
        line("detectors fired", total.detectors),
        line("reactions ran", total.reactions),
        line("outcomes of conditions seen", total.conditions),
        line("actions done", total.actions),
    ];
    format!(
        "<section id=\"coverage\">\n<h2>Coverage</h2>\n<ul class=\"totals\">{}</ul>\n\
         <div class=\"wide\"><table>\n<thead><tr><th>tried</th><th>detector</th><th>how</th></tr></thead>\n\
         <tbody>\n{rows}</tbody></table>\n<table>\n<thead><tr><th>tried</th><th>reaction</th><th>how</th>\
         </tr></thead>\n<tbody>\n{reactions}</tbody></table></div>\n</section>\n",
        totals.concat()
    )
}

pub(super) fn events(loaded: &Loaded, entries: &[Entry]) -> String {
    let (scene, playtest) = (&*loaded.scene, loaded.playtest.as_ref());
    let mut rows = String::new();
    let mut time = None;
    let history = History::new(entries);
    let told = entries.iter().enumerate().filter(|(_, entry)| !entry.goes_without_saying());
    for (index, entry) in told {
        let at = if time == Some(entry.time()) { String::new() } else { entry.time().to_string() };
        time = Some(entry.time());
        let from = came_from(playtest, &history, entry);
        let _ = writeln!(rows, "{}", event_row(scene, (entry, index), &at, &from));
    }
    format!(
        "<section id=\"events\">\n<h2>Events</h2>\n<div class=\"wide\"><table>\n<thead><tr>\
         <th class=\"n\">seconds</th><th>event</th><th>detector</th><th>subject</th><th>how</th>\
         <th class=\"n\">no.</th><th class=\"n\">came of</th></tr>\
         </thead>\n<tbody>\n{rows}</tbody></table></div>\n</section>\n"
    )
}

/// What an entry came of: a link to its row, the line of the tape, or the start.
fn came_from(playtest: Option<&Playtest>, history: &History<'_>, entry: &Entry) -> String {
    let mut from = entry.origin;
    // What has no row is passed over.
    while let Origin::Entry(number) = from
        && let Some(cause) = history.entry(number).filter(|it| it.goes_without_saying())
    {
        from = cause.origin;
    }
    match from {
        Origin::Entry(number) => format!("<a href=\"#n{number}\">{number}</a>"),
        Origin::Input(number) => {
            let line = playtest.and_then(|playtest| playtest.line_of(number as usize));
            line.map_or_else(|| format!("input {}", number + 1), |line| format!("line {line}"))
        }
        Origin::Start => "start".into(),
    }
}

fn event_row(scene: &Scene, (entry, index): (&Entry, usize), at: &str, from: &str) -> String {
    let number = entry.number;
    let ends =
        format!("<td class=\"n\" id=\"n{number}\">{number}</td><td class=\"n\">{from}</td></tr>");
    let Happening::Event(event) = &entry.what else {
        let class = match &entry.what {
            Happening::Refused { .. } | Happening::Problem { .. } | Happening::Halted { .. } => {
                "unmet"
            }
            _ => "did",
        };
        let words = came_of(scene, entry).unwrap_or_default();
        let words = escape(&words);
        return format!(
            "<tr class=\"{class}\"><td class=\"n\">{at}</td><td colspan=\"4\">{words}</td>{ends}"
        );
    };
    let name = |id: Option<EntityId>| escape(id.map_or("", |id| scene.name(id)));
    let on = event.cue.as_deref().map_or_else(|| name(event.on), escape);
    let cause = event.cause.map_or(String::new(), |cause| cause.to_string());
    let need = event.need.as_ref().map_or(String::new(), |need| format!(" for want of {need}"));
    format!(
        "<tr id=\"e{index}\" data-i=\"{index}\"><td class=\"n\">{at}</td><td>{}</td><td>{on}</td>\
         <td>{}</td><td>{cause}{}</td>{ends}",
        event.kind,
        name(event.who),
        escape(&need)
    )
}

pub(super) fn legend() -> String {
    let mut items = String::new();
    for mark in Mark::ALL {
        let _ = write!(
            items,
            "<li><svg viewBox=\"0 0 30 14\" width=\"30\" height=\"14\" aria-hidden=\"true\"><rect \
             class=\"m-{0}\" x=\"1\" y=\"1\" width=\"28\" height=\"12\"/></svg> {1} {2}</li>",
            mark.code(),
            mark.sign(),
            mark.words()
        );
    }
    format!(
        "<section id=\"legend\">\n<h2>Legend</h2>\n<ul class=\"legend\">{items}</ul>\n</section>\n</main>\n"
    )
}
