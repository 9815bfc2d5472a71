//! The scene in the cells of a terminal.

use ratatui::buffer::Buffer;
use ratatui::layout::Rect;

use hazuro::EntityId;

use crate::figures::{Drawn, Figure};
use crate::theme::{Mark, Palette};
use crate::view::{Flat, View, Window};

use super::canvas::{Canvas, Fill, Stroke};

/// What of a scene a terminal shows: from which side, around which point, how large.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(super) struct Viewport {
    pub view: View,
    /// The point in the middle, in metres.
    pub middle: Flat,
    /// How many dots a metre has.
    pub dots: f64,
}

impl Viewport {
    /// That shows a whole window in an area.
    pub fn over(view: View, window: &Window, area: Rect) -> Self {
        let [width, height] = window.size();
        let dots = (f64::from(area.width) * 2.0 / width.max(0.1))
            .min(f64::from(area.height) * 4.0 / height.max(0.1));
        Self { view, middle: window.middle(), dots }
    }

    /// Where a point of the drawing is, in dots.
    fn dot(&self, canvas: &Canvas, [x, y]: Flat) -> Flat {
        let [wide, high] = canvas.dots();
        [
            wide / 2.0 + (x - self.middle[0]) * self.dots,
            high / 2.0 - (y - self.middle[1]) * self.dots,
        ]
    }

    /// What an area shows.
    pub fn window(&self, area: Rect) -> Window {
        let size =
            [f64::from(area.width) * 2.0 / self.dots, f64::from(area.height) * 4.0 / self.dots];
        Window::around(self.middle, size)
    }

    /// The point of the drawing at a cell of an area.
    pub fn point(&self, area: Rect, column: u16, row: u16) -> Flat {
        let x = (f64::from(column - area.x) + 0.5) * 2.0 - f64::from(area.width);
        let y = (f64::from(row - area.y) + 0.5) * 4.0 - f64::from(area.height) * 2.0;
        [self.middle[0] + x / self.dots, self.middle[1] - y / self.dots]
    }
}

/// How far on top a mark lies.
fn rank(mark: Mark) -> u8 {
    match mark {
        Mark::Ground => 1,
        Mark::Solid => 10,
        Mark::Sight => 20,
        Mark::Offer => 30,
        Mark::Route => 35,
        Mark::Off => 40,
        Mark::Idle => 50,
        Mark::Occupied => 60,
        Mark::Ray | Mark::Target => 65,
        Mark::Fired => 70,
        Mark::Highlight => 75,
        Mark::Body => 80,
        Mark::Player => 90,
        _ => 45,
    }
}

/// In which order names are placed.
fn weight(mark: Mark) -> u8 {
    match mark {
        Mark::Player => 0,
        Mark::Fired => 1,
        Mark::Occupied => 2,
        Mark::Body => 3,
        Mark::Offer => 4,
        Mark::Idle => 5,
        Mark::Off => 6,
        Mark::Solid => 7,
        _ => 8,
    }
}

/// What is to be set apart from the rest.
#[derive(Clone, Copy, Debug, Default)]
pub(super) struct Chosen {
    pub player: Option<EntityId>,
    pub detector: Option<EntityId>,
}

/// A figure of which something is to be seen, and what it covers.
struct Seen<'a> {
    figure: &'a Figure<'a>,
    window: Window,
}

/// Draws figures into an area.
pub(super) fn draw(
    buffer: &mut Buffer,
    area: Rect,
    viewport: &Viewport,
    figures: &[Figure<'_>],
    chosen: Chosen,
    palette: &Palette,
) {
    if area.is_empty() {
        return;
    }
    let mut canvas = Canvas::new(area.width, area.height);
    let shown = viewport.window(area);
    let seen: Vec<Seen<'_>> = figures
        .iter()
        .map(|figure| Seen { figure, window: figure.window(viewport.view) })
        .filter(|seen| seen.window.is_empty() || seen.window.meets(&shown))
        .collect();
    for seen in &seen {
        draw_figure(&mut canvas, viewport, &shown, seen);
    }
    for seen in &seen {
        signs(&mut canvas, viewport, seen, chosen);
    }
    names(&mut canvas, viewport, &shown, &seen, chosen);
    canvas.draw(area, buffer, &|mark| palette.of(mark));
}

/// Ground is drawn only where it is seen from the side, since from above it is everywhere; and how
/// far prompts reach only where they are offered, or where there is room.
fn is_drawn(figure: &Figure<'_>, viewport: &Viewport) -> bool {
    match figure.mark {
        Mark::Ground => viewport.view != View::Top,
        Mark::Offer => figure.label.is_some() || viewport.dots >= 8.0,
        _ => true,
    }
}

fn draw_figure(canvas: &mut Canvas, viewport: &Viewport, shown: &Window, seen: &Seen<'_>) {
    let Seen { figure, window } = seen;
    let mark = (figure.mark, rank(figure.mark));
    let place = |canvas: &Canvas, point: Flat| viewport.dot(canvas, point);
    if let Drawn::Line(points) = &figure.drawn {
        let stroke = if figure.mark == Mark::Off { Stroke::Dotted } else { Stroke::Dashed };
        for pair in points.windows(2) {
            let [from, to] = [pair[0], pair[1]].map(|it| place(canvas, viewport.view.flat(it)));
            canvas.line(from, to, mark, stroke);
        }
        return;
    }
    if !is_drawn(figure, viewport) {
        return;
    }
    // What is smaller than a dot is drawn as its sign only.
    let size = window.size();
    if !window.is_empty() && size[0].max(size[1]) * viewport.dots < 1.0 {
        return;
    }
    let outlines = figure.outlines(viewport.view, shown);
    for outline in &outlines {
        let points: Vec<Flat> = outline.points.iter().map(|it| place(canvas, *it)).collect();
        match figure.mark {
            Mark::Solid | Mark::Ground => canvas.fill(&points, mark, Fill::Stone),
            Mark::Occupied => canvas.fill(&points, mark, Fill::Sparse),
            Mark::Fired => canvas.fill(&points, mark, Fill::Dense),
            _ => {}
        }
        let stroke = match figure.mark {
            Mark::Idle => Stroke::Dashed,
            Mark::Off | Mark::Offer | Mark::Sight => Stroke::Dotted,
            _ => Stroke::Whole,
        };
        if figure.mark != Mark::Ground || outlines.len() < 64 {
            canvas.outline(&points, mark, stroke);
        }
    }
}

/// The signs of what is small, and of bodies by where they face.
fn signs(canvas: &mut Canvas, viewport: &Viewport, seen: &Seen<'_>, chosen: Chosen) {
    let Seen { figure, window } = seen;
    let at = if window.is_empty() { viewport.view.flat(figure.place()) } else { window.middle() };
    let at = viewport.dot(canvas, at);
    match &figure.drawn {
        Drawn::Body(..) => {
            let is_player = figure.mark == Mark::Player;
            let letter = facing(figure.facing(viewport.view), is_player);
            let bold = Some(figure.entity) == chosen.player;
            canvas.letter(at, letter, figure.mark, bold);
        }
        Drawn::Point(_) => {
            let bold = Some(figure.entity) == chosen.detector;
            canvas.letter(at, figure.mark.sign(), figure.mark, bold);
        }
        Drawn::Form(..) if figure.mark == Mark::Off => {
            canvas.letter(at, figure.mark.sign(), figure.mark, false);
        }
        _ => {}
    }
}

/// An arrow's head that points where a body faces.
pub(super) fn facing(way: Option<Flat>, is_player: bool) -> char {
    let Some([x, y]) = way else { return if is_player { '●' } else { '○' } };
    let signs: [char; 4] =
        if is_player { ['▶', '▲', '◀', '▼'] } else { ['▷', '△', '◁', '▽'] };
    let quarter = (y.atan2(x) / std::f64::consts::FRAC_PI_2).round() as i32;
    signs[quarter.rem_euclid(4) as usize]
}

fn names(
    canvas: &mut Canvas,
    viewport: &Viewport,
    shown: &Window,
    seen: &[Seen<'_>],
    chosen: Chosen,
) {
    let mut named: Vec<&Seen<'_>> = seen
        .iter()
        .filter(|seen| seen.figure.label.is_some() && is_drawn(seen.figure, viewport))
        .collect();
    let is_chosen = |figure: &Figure<'_>| {
        Some(figure.entity) == chosen.player || Some(figure.entity) == chosen.detector
    };
    named.sort_by_key(|seen| (!is_chosen(seen.figure), weight(seen.figure.mark)));
    let mut done: Vec<(EntityId, &str)> = Vec::new();
    // No terminal has room for more.
    for Seen { figure, window } in named.into_iter().take(400) {
        let Some(text) = figure.label.as_deref() else { continue };
        if done.contains(&(figure.entity, text)) {
            continue;
        }
        let endless = window.is_empty();
        let place = if endless { viewport.view.flat(figure.place()) } else { window.middle() };
        if !shown.holds(place) || (endless && viewport.view == View::Top) {
            continue;
        }
        let is_small = matches!(figure.drawn, Drawn::Body(..) | Drawn::Point(_));
        // A large thing is named in its middle, a small one beside.
        let length = text.chars().count();
        let Some((column, row)) = canvas.cell_at(viewport.dot(canvas, place)) else { continue };
        let beside = [
            (column + 2, row),
            (column.saturating_sub(length + 1), row),
            ((column + 1).saturating_sub(length / 2), row + 1),
            ((column + 1).saturating_sub(length / 2), row.saturating_sub(1)),
        ];
        let inside = [(column.saturating_sub(length / 2), row)];
        let spots = if is_small { &beside[..] } else { &inside[..] };
        let bold = is_chosen(figure);
        let spots = spots.iter().chain(&beside[2..]);
        for spot in spots {
            if canvas.text(*spot, text, figure.mark, bold) {
                done.push((figure.entity, text));
                break;
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    proptest! {
        /// A cell of the map and the point of the drawing in its middle belong together, wherever one
        /// looks and however large.
        #[test]
        fn cells_and_points_belong_together(
            middle in [-90.0..90.0, -90.0..90.0_f64],
            dots in 0.05..60.0,
            cell in (0_u16..80, 0_u16..24),
        ) {
            let area = Rect::new(3, 1, 80, 24);
            let viewport = Viewport { view: View::Top, middle, dots };
            let (column, row) = (area.x + cell.0, area.y + cell.1);
            let point = viewport.point(area, column, row);
            prop_assert!(viewport.window(area).holds(point));
            let canvas = Canvas::new(area.width, area.height);
            let found = canvas.cell_at(viewport.dot(&canvas, point));
            prop_assert_eq!(found, Some((usize::from(cell.0), usize::from(cell.1))));
        }

        /// The viewport over a window shows all of it.
        #[test]
        fn all_of_a_window_is_shown(
            a in [-90.0..90.0, -90.0..90.0_f64],
            b in [-90.0..90.0, -90.0..90.0_f64],
            size in (20_u16..200, 5_u16..60),
        ) {
            let window = Window::EMPTY.and(a).and(b);
            let area = Rect::new(0, 0, size.0, size.1);
            let shown = Viewport::over(View::Front, &window, area).window(area).grown(1e-9);
            prop_assert!(shown.holds(window.min) && shown.holds(window.max));
        }
    }

    #[test]
    fn arrows_point_where_one_faces() {
        let all = [([1.0, 0.1], '▶'), ([0.1, 1.0], '▲'), ([-1.0, -0.2], '◀'), ([0.0, -1.0], '▼')];
        for (way, sign) in all {
            assert_eq!(facing(Some(way), true), sign);
            assert_ne!(facing(Some(way), false), sign, "players differ from others");
        }
        assert_ne!(facing(None, true), facing(None, false));
    }
}
