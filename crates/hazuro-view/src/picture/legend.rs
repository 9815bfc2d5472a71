//! The column beside a picture: what the marks mean, and which events the numbers stand for.

use hazuro::Entry;
use hazuro::scene::Scene;

use crate::theme::Mark;
use crate::view::Flat;

use super::letters;
use super::map::sign;
use super::svg::{Anchor, Svg, along};

/// How wide texts may be.
const WIDE: f64 = 244.0;
const LINE: f64 = 18.0;

/// Draws what the marks mean. Where it ends.
pub(super) fn draw(svg: &mut Svg, [x, y]: Flat, marks: &[Mark], left_out: &[String]) -> f64 {
    svg.begin("legend", &[]);
    svg.text("ink", [x, y + 8.0], 12.0, Anchor::Start, "Legend");
    let mut y = y + 26.0;
    for mark in Mark::ALL.into_iter().filter(|mark| marks.contains(mark)) {
        sample(svg, mark, [x, y]);
        svg.text("ink", [x + 38.0, y + 4.0], 11.0, Anchor::Start, mark.words());
        y += LINE;
    }
    if !left_out.is_empty() {
        let words = format!("no room for {} names: {}", left_out.len(), left_out.join(", "));
        let words = if left_out.len() == 1 {
            format!("no room for a name: {}", left_out[0])
        } else {
            words
        };
        svg.text("faint", [x, y + 6.0], 10.0, Anchor::Start, &letters::fit(&words, 10.0, WIDE));
        y += LINE;
    }
    svg.end();
    y
}

/// What a mark looks like, 28 pixels wide.
fn sample(svg: &mut Svg, mark: Mark, [x, y]: Flat) {
    let class = format!("m-{}", mark.code());
    let (left, right) = ([x, y], [x + 28.0, y]);
    match mark {
        Mark::Ground | Mark::Solid | Mark::Idle | Mark::Occupied | Mark::Fired | Mark::Sight => {
            svg.rect(&class, [x, y - 6.0], [28.0, 12.0]);
        }
        Mark::Off => {
            svg.rect(&class, [x, y - 6.0], [28.0, 12.0]);
            svg.line(&class, [x, y - 6.0], [x + 28.0, y + 6.0]);
            svg.line(&class, [x, y + 6.0], [x + 28.0, y - 6.0]);
        }
        Mark::Player | Mark::Body => {
            svg.circle(&class, [x + 10.0, y], 5.5);
            let beak = [[x + 24.0, y], [x + 15.0, y - 4.0], [x + 15.0, y + 4.0]];
            svg.path(&format!("t-{}", mark.code()), &along(&beak, true));
        }
        Mark::Route | Mark::Ray | Mark::Target => svg.line(&class, left, right),
        Mark::Path => {
            svg.line(&class, left, right);
            let head = [[x + 28.0, y], [x + 20.0, y - 4.0], [x + 20.0, y + 4.0]];
            svg.path("t-path", &along(&head, true));
        }
        Mark::Offer | Mark::Highlight => svg.circle(&class, [x + 14.0, y], 7.0),
        Mark::Event => {
            svg.path_with(
                &class,
                &along(
                    &[
                        [x + 6.0, y - 7.0],
                        [x + 22.0, y - 7.0],
                        [x + 22.0, y + 7.0],
                        [x + 6.0, y + 7.0],
                    ],
                    true,
                ),
                "stroke=\"none\"",
            );
            svg.text("onmark", [x + 14.0, y + 3.6], 10.0, Anchor::Middle, "1");
        }
        Mark::Effect | Mark::Cooldown => svg.rect(&class, [x, y - 3.0], [28.0, 6.0]),
        _ => sign(svg, mark, [x + 14.0, y]),
    }
}

/// Draws which events the numbers stand for, as many as there is room for.
pub(super) fn events(
    svg: &mut Svg,
    [x, y]: Flat,
    bottom: f64,
    scene: &Scene,
    entries: &[Entry],
    numbered: &[(usize, usize)],
) {
    const ROW: f64 = 14.5;
    if numbered.is_empty() || y + 40.0 > bottom {
        return;
    }
    svg.begin("events", &[]);
    svg.text("ink", [x, y + 8.0], 12.0, Anchor::Start, "Events");
    let mut y = y + 25.0;
    let room = ((bottom - y) / ROW).max(1.0) as usize;
    let shown = if numbered.len() > room { room - 1 } else { numbered.len() };
    for (number, index) in &numbered[..shown] {
        let Some(event) = entries[*index].event() else { continue };
        let name = |id: Option<hazuro::EntityId>| id.map_or("", |id| scene.name(id));
        let words = format!("{} {} {}", event.kind, name(event.on), name(event.who));
        svg.text("t-event", [x + 20.0, y], 10.5, Anchor::End, &number.to_string());
        let time = format!("{:.3}", event.time.secs());
        svg.text("faint", [x + 68.0, y], 10.0, Anchor::End, &time);
        let words = letters::fit(words.trim_end(), 10.5, WIDE - 74.0);
        svg.text("ink", [x + 76.0, y], 10.5, Anchor::Start, &words);
        y += ROW;
    }
    if shown < numbered.len() {
        let words = format!("and {} more", numbered.len() - shown);
        svg.text("faint", [x + 76.0, y], 10.5, Anchor::Start, &words);
    }
    svg.end();
}
