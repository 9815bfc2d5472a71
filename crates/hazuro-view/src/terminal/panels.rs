//! The panels beside the map, and what lies over it for a while.

use hazuro::Happening;
use hazuro::scene::Facts;
use ratatui::buffer::Buffer;
use ratatui::layout::Rect;
use ratatui::widgets::{Clear, Widget};

use crate::theme::Mark;

use super::console::{Console, Focus};
use super::text::{faint, of, plain, strong, write};
use super::timeline;

/// The keys, for the help: what to press, and what it does.
const HELP: [(&str, &str); 22] = [
    ("arrows, wasd", "walk 1 m (with shift 4 m)"),
    ("space", "jump"),
    ("a letter", "press that key in the play, as E; not Q"),
    ("Enter", "use the first of what is offered"),
    ("G, T", "grab or let go; throw"),
    ("Tab", "be the next player"),
    ("left, right click", "click or choose; walk there"),
    ("C", "send a cue"),
    ("N, B", "next, previous detector"),
    ("K", "poke the chosen detector"),
    ("P", "pause, go on"),
    (". and >", "one tick on, one event on"),
    (", and <", "one tick back, one event back"),
    ("[ and ]", "slower, faster"),
    ("J", "go to a time"),
    ("E", "events: choose one to go back to"),
    ("/", "show only events with a text"),
    ("L", "timeline"),
    ("V", "from above, the south, the east"),
    ("+ - 0, wheel", "nearer, farther, all"),
    ("F", "follow the player"),
    ("q, Ctrl-C", "quit"),
];

/// How long a text that was said is shown, in nanoseconds.
const SAID: i64 = 4_000_000_000;

/// A line of a panel.
type Line = (String, ratatui::style::Style);

/// Draws why, values and events, one below the other.
pub(super) fn draw(console: &mut Console, buffer: &mut Buffer, area: Rect) {
    console.look_why();
    let why = why(console);
    let values = values(console);
    let most = usize::from(area.height);
    // Events get at least four lines, values at most a quarter.
    let values = &values[..values.len().min(most / 4)];
    let room = most.saturating_sub(values.len() + 6);
    let mut row = 0;
    let mut put = |lines: &[Line], row: &mut u16| {
        for (text, style) in lines {
            write(buffer, area, *row, text, *style);
            *row += 1;
        }
    };
    let why = wrapped(&why, usize::from(area.width));
    put(&why[..why.len().min(room)], &mut row);
    put(values, &mut row);
    let rest = usize::from(area.height - row.min(area.height));
    put(&events(console, rest), &mut row);
}

/// Lines broken to a width, at spaces where possible.
fn wrapped(lines: &[Line], width: usize) -> Vec<Line> {
    let mut all = Vec::new();
    for (text, style) in lines {
        let mut rest = text.clone();
        while rest.chars().count() > width {
            let cut: usize = rest.chars().take(width).map(char::len_utf8).sum();
            let at = rest[..cut].rfind(' ').filter(|at| *at > cut / 2).unwrap_or(cut);
            let next = rest.split_off(at);
            all.push((rest, *style));
            rest = format!("    {}", next.trim_start());
        }
        all.push((rest, *style));
    }
    all
}

fn why(console: &Console) -> Vec<Line> {
    let scene = console.play().scene();
    let Some(why) = &console.why else {
        return vec![("Why: N chooses a detector".into(), faint())];
    };
    let mut lines =
        vec![(format!("Why {} · {}", scene.name(why.on), scene.name(why.who)), strong())];
    for chain in &why.chains {
        let sort = chain.detector.word();
        let (words, style) = match (&chain.stopped, chain.detects) {
            (_, true) => (format!("{sort}: ● detects now"), of(Mark::Occupied)),
            (Some(_), _) => (format!("{sort}: hangs on"), plain()),
            (None, _) if chain.gates.is_empty() => (format!("{sort}: not asked"), faint()),
            (None, _) => (format!("{sort}: all gates pass"), plain()),
        };
        lines.push((words, style));
        let passed = chain.gates.iter().filter(|(_, passed)| *passed).count();
        if passed > 0 {
            lines.push((format!("  ✓ {passed} gates pass"), faint()));
        }
        if let Some((saw, cure)) = &chain.stopped {
            let gate = chain.gates.last().map_or("", |(words, _)| words);
            let colon = if saw.is_empty() { "" } else { ": " };
            lines.push((format!("  ✗ {gate}{colon}{saw}"), of(Mark::Fired)));
            if let Some(cure) = cure {
                lines.push((format!("  cure: {cure}"), of(Mark::Occupied)));
            }
        }
    }
    lines.push((String::new(), plain()));
    lines
}

/// The values watched; unless some are asked for, the counts, and the player's stats.
fn values(console: &Console) -> Vec<Line> {
    let play = console.play();
    let mut lines: Vec<String> = console
        .watched
        .iter()
        .map(|watched| format!("{} = {}", watched.text(), watched.value(play)))
        .collect();
    if lines.is_empty() {
        let facts = play.facts();
        lines.extend(facts.counts(None).iter().map(|(name, value)| format!("{name} = {value}")));
        lines.extend(facts.flags(None).iter().map(|(name, value)| format!("{name} = {value}")));
        if let Some(who) = console.player() {
            for stat in play.scene().stat_names() {
                if let Some(value) = facts.stat(who, stat) {
                    let value = (value * 100.0).round() / 100.0;
                    lines.push(format!("{}.{stat} = {value}", play.scene().name(who)));
                }
            }
        }
    }
    if lines.is_empty() {
        return Vec::new();
    }
    let mut all = vec![("Values".to_owned(), strong())];
    all.extend(lines.into_iter().map(|line| (line, plain())));
    all
}

/// The last events, or those around the chosen one.
fn events(console: &Console, room: usize) -> Vec<Line> {
    if room < 2 {
        return Vec::new();
    }
    let lines = console.filtered();
    let title = if console.filter.is_empty() {
        "Events".to_owned()
    } else {
        format!("Events with “{}”", console.filter)
    };
    let mut all = vec![(title, strong())];
    let room = room - 1;
    let last = lines.len().saturating_sub(1);
    let at = match console.focus {
        Focus::Events { at } => Some(at.min(last)),
        _ => None,
    };
    let first = match at {
        Some(at) => at.saturating_sub(room / 2).min(lines.len().saturating_sub(room)),
        None => lines.len().saturating_sub(room),
    };
    for (index, entry) in lines.iter().enumerate().skip(first).take(room) {
        let line = console.line(*entry);
        let style = match &console.entries()[*entry].what {
            Happening::Event(_) => plain(),
            Happening::Refused { .. } | Happening::Problem { .. } | Happening::Halted { .. } => {
                of(Mark::Refused)
            }
            _ => faint(),
        };
        let is_at = Some(index) == at;
        let sign = if is_at { '▸' } else { ' ' };
        all.push((format!("{sign}{line}"), if is_at { strong() } else { style }));
        if is_at {
            all.extend(console.came_of(*entry).into_iter().map(|line| (line, faint())));
        }
    }
    // What it came of makes room for itself: the oldest lines give way.
    while all.len() > room + 1 && all.len() > 2 {
        let gives = if at.is_some_and(|at| at > first) { 1 } else { all.len() - 1 };
        all.remove(gives);
    }
    all
}

/// The last text that was said, while it is fresh.
pub(super) fn said(console: &Console) -> Option<String> {
    let now = console.rewind.now();
    let entries = console.entries().iter().rev();
    entries.take_while(|entry| (now - entry.time()).nanos() < SAID).find_map(|entry| {
        match &entry.what {
            Happening::Said { text, to: Some(to), .. } => {
                Some(format!("▸ {}: {text}", console.play().scene().name(*to)))
            }
            Happening::Said { text, .. } => Some(format!("▸ {text}")),
            _ => None,
        }
    })
}

/// Draws what lies over the map for a while: a list, the help, the timeline.
pub(super) fn overlay(console: &mut Console, buffer: &mut Buffer, area: Rect) {
    match console.focus.clone() {
        Focus::Menu { title, items, at } => {
            let wide = items.iter().map(|(text, _)| text.chars().count()).max().unwrap_or(0);
            let wide = wide.max(title.chars().count()) as u16 + 6;
            let inner = frame(buffer, area, wide, items.len() as u16 + 1, &title);
            let room = usize::from(inner.height);
            let first = (at + 1).saturating_sub(room);
            for (row, (index, (text, _))) in
                items.iter().enumerate().skip(first).take(room).enumerate()
            {
                let sign = if index == at { '▸' } else { ' ' };
                let style = if index == at { strong() } else { plain() };
                write(buffer, inner, row as u16, &format!("{sign} {text}"), style);
            }
        }
        Focus::Help => help(buffer),
        Focus::Timeline => {
            let height = (area.height * 2 / 3).max(4);
            let below = Rect { y: area.y + area.height - height, height, ..area };
            Clear.render(below, buffer);
            let inner = frame(buffer, below, below.width, below.height, "Timeline");
            timeline::draw(&console.timeline(), buffer, inner);
        }
        _ => {}
    }
}

/// The keys, and as many of the marks as there is room for.
fn help(buffer: &mut Buffer) {
    let two = buffer.area.width >= 104;
    let inner =
        frame(buffer, buffer.area, if two { 100 } else { 58 }, HELP.len() as u16, "Keys and marks");
    for (row, (keys, does)) in HELP.iter().enumerate() {
        write(buffer, inner, row as u16, &format!("{keys:>17}  {does}"), plain());
    }
    if two {
        let right = Rect { x: inner.x + 58, width: inner.width - 58, ..inner };
        for (row, mark) in Mark::ALL.iter().enumerate() {
            let words = format!("{} {}", mark.sign(), mark.words());
            write(buffer, right, row as u16, &words, of(*mark));
        }
    }
}

/// Clears a rectangle in the middle of an area, with a frame. What is within.
fn frame(buffer: &mut Buffer, area: Rect, width: u16, height: u16, title: &str) -> Rect {
    let (width, height) = ((width + 2).min(area.width), (height + 2).min(area.height));
    let outer = Rect::new(
        area.x + (area.width - width) / 2,
        area.y + (area.height - height) / 2,
        width,
        height,
    );
    Clear.render(outer, buffer);
    buffer.set_style(outer, plain().bg(super::canvas::rgb(crate::theme::DARK.paper)));
    let bar = "─".repeat(usize::from(width.saturating_sub(2)));
    write(buffer, outer, 0, &format!("┌{bar}┐"), faint());
    write(buffer, outer, height - 1, &format!("└{bar}┘"), faint());
    for row in 1..height - 1 {
        buffer.set_string(outer.x, outer.y + row, "│", faint());
        buffer.set_string(outer.x + width - 1, outer.y + row, "│", faint());
    }
    if width > 4 {
        let at = Rect { x: outer.x + 2, width: width - 4, ..outer };
        write(buffer, at, 0, &format!(" {title} "), strong());
    }
    Rect::new(outer.x + 1, outer.y + 1, width.saturating_sub(2), height.saturating_sub(2))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn long_lines_are_broken_at_spaces_and_nothing_is_lost() {
        let line = |text: &str| (text.to_owned(), plain());
        let text = "cure: bring `miller` 2.200 m up (+Y), or make the shape so much larger";
        for width in [12, 20, 33, 46, 200] {
            let broken = wrapped(&[line(text)], width);
            assert!(broken.iter().all(|(part, _)| part.chars().count() <= width), "{broken:?}");
            let words = |text: &str| text.split_whitespace().collect::<Vec<_>>().join(" ");
            let whole: Vec<&str> = broken.iter().map(|(part, _)| part.as_str()).collect();
            assert_eq!(words(&whole.join(" ")).replace(' ', ""), words(text).replace(' ', ""));
        }
        let solid = "x".repeat(90);
        assert!(wrapped(&[line(&solid)], 20).len() >= 5, "without spaces, too");
        assert_eq!(wrapped(&[line("mill"), line("")], 20).len(), 2);
    }
}
