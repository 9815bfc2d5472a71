//! A timeline as a picture.

use hazuro::Time;

use crate::theme::{DARK, LIGHT, Mark};
use crate::timeline::{Row, Timeline};

use super::letters;
use super::map::{round_up, sign};
use super::svg::{Anchor, Svg, short};

const LANE: f64 = 13.0;
const PAD: f64 = 6.0;
const LEFT: f64 = 210.0;

/// Draws a timeline as an SVG file of this width in pixels, as high as it needs to be.
///
/// ```
/// use hazuro_view::{Timeline, chart};
/// let svg = chart("Yard", &Timeline::default(), 800, false);
/// assert!(svg.starts_with("<svg"));
/// ```
pub fn chart(title: &str, timeline: &Timeline, width: u32, dark: bool) -> String {
    let width = f64::from(width.clamp(400, 8000));
    let mut svg = Svg::new("", [width, height(timeline) + 44.0]);
    svg.text("ink", [14.0, 26.0], 18.0, Anchor::Start, title);
    draw(&mut svg, timeline, width - 14.0, 44.0);
    svg.finish(&format!("{title}: what happened when"), if dark { &DARK } else { &LIGHT })
}

/// The same to stand in a page.
pub(crate) fn chart_inline(timeline: &Timeline, width: f64) -> String {
    let mut svg = Svg::new("c", [width, height(timeline)]);
    draw(&mut svg, timeline, width - 8.0, 0.0);
    svg.finish_inline("what happened when")
}

fn row_height(row: &Row) -> f64 {
    row.lanes as f64 * LANE + PAD
}

fn height(timeline: &Timeline) -> f64 {
    timeline.rows.iter().map(row_height).sum::<f64>() + 44.0
}

/// Where a time is.
struct Axis {
    from: f64,
    wide: f64,
    seconds: f64,
}

impl Axis {
    fn at(&self, time: Time) -> f64 {
        self.from + self.wide * (time.secs() / self.seconds).clamp(0.0, 1.0)
    }
}

fn draw(svg: &mut Svg, timeline: &Timeline, right: f64, top: f64) {
    let seconds = timeline.until.secs().max(1e-3);
    let axis = Axis { from: LEFT, wide: right - LEFT - 12.0, seconds };
    let bottom = top + height(timeline) - 24.0;
    let step = round_up(seconds / (axis.wide / 70.0).max(1.0));
    svg.begin(
        "chart",
        &[
            ("data-left", &short(axis.from)),
            ("data-wide", &short(axis.wide)),
            ("data-seconds", &seconds.to_string()),
        ],
    );
    for mark in 0..=(seconds / step + 1e-9) as u64 {
        let x = axis.at(Time::from_secs(mark as f64 * step));
        svg.line("grid", [x, top + 4.0], [x, bottom]);
        let decimals = usize::from(step < 1.0) + usize::from(step < 0.1);
        let text = format!("{:.decimals$} s", mark as f64 * step);
        svg.text("faint", [x, bottom + 14.0], 10.0, Anchor::Middle, &text);
    }
    let mut y = top + 8.0;
    for row in &timeline.rows {
        draw_row(svg, row, &axis, y, right);
        y += row_height(row);
    }
    svg.end();
}

fn draw_row(svg: &mut Svg, row: &Row, axis: &Axis, y: f64, right: f64) {
    let middle = y + LANE / 2.0 + 4.0;
    let name = letters::fit(&row.name, 11.0, LEFT - 80.0);
    svg.text("ink", [LEFT - 72.0, middle], 11.0, Anchor::End, &name);
    svg.text("faint", [LEFT - 66.0, middle], 9.0, Anchor::Start, row.sort);
    svg.line("grid", [14.0, y - 3.0], [right, y - 3.0]);
    for span in &row.spans {
        let (from, until) = (axis.at(span.from), axis.at(span.until.unwrap_or(Time::MAX)));
        let at = y + span.lane as f64 * LANE;
        let (drop, high) = if span.mark == Mark::Cooldown { (8.0, 4.0) } else { (1.0, LANE - 4.0) };
        svg.begin("span", &[]);
        let end = span.until.map_or("the end".into(), |until| format!("{until} s"));
        svg.hint(&format!("{} {}: {} s to {end}", row.name, span.who, span.from));
        svg.rect(
            &format!("m-{}", span.mark.code()),
            [from, at + drop],
            [(until - from).max(1.0), high],
        );
        let size = 9.0;
        if letters::width(&span.who, size) + 18.0 < until - from {
            let text = [from + 9.0, at + 8.5];
            svg.rect(
                "halo",
                [text[0] - 2.0, at + 2.0],
                [letters::width(&span.who, size) + 4.0, 7.0],
            );
            svg.text("ink", text, size, Anchor::Start, &span.who);
        }
        svg.end();
    }
    // Where marks would lie upon one another, one stands for all.
    let mut last = f64::NEG_INFINITY;
    for tick in &row.ticks {
        let x = axis.at(tick.time);
        if x - last < 2.0 && tick.mark != Mark::Refused {
            continue;
        }
        last = x;
        svg.begin("tick", &[("data-i", &tick.entry.to_string())]);
        svg.hint(&format!("{} s  {} {}", tick.time, row.name, tick.text));
        sign(svg, tick.mark, [x, y + LANE / 2.0 - 1.0]);
        svg.end();
    }
}
