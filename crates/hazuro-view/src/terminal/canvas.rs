//! Lines and areas of dots in the cells of a terminal: two dots wide and four high in each.

use ratatui::buffer::Buffer;
use ratatui::layout::Rect;
use ratatui::style::{Color, Modifier, Style};

use crate::theme::{Colour, Mark};
use crate::view::Flat;

/// How dense an area is filled.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Fill {
    /// Each fourth dot: what is solid.
    Stone,
    /// Sparse diagonals: what detects somebody.
    Sparse,
    /// Dense diagonals: what has just fired.
    Dense,
}

/// Which dots of a line are drawn.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Stroke {
    Whole,
    Dashed,
    Dotted,
}

/// The order of dots in the Braille patterns of Unicode.
const BITS: [[u8; 2]; 4] = [[0x01, 0x08], [0x02, 0x10], [0x04, 0x20], [0x40, 0x80]];

#[derive(Clone, Copy, Debug, Default)]
struct Cell {
    dots: u8,
    /// The mark that colours it, and how far on top that is.
    mark: Option<Mark>,
    rank: u8,
    /// A letter instead of the dots.
    letter: Option<char>,
    bold: bool,
}

/// A drawing in the cells of an area.
pub(super) struct Canvas {
    width: usize,
    height: usize,
    cells: Vec<Cell>,
}

impl Canvas {
    pub fn new(width: u16, height: u16) -> Self {
        let (width, height) = (usize::from(width), usize::from(height));
        Self { width, height, cells: vec![Cell::default(); width * height] }
    }

    /// How many dots it is wide and high.
    pub fn dots(&self) -> [f64; 2] {
        [(self.width * 2) as f64, (self.height * 4) as f64]
    }

    fn dot(&mut self, x: i32, y: i32, mark: Mark, rank: u8) {
        if x < 0 || y < 0 || x >= self.width as i32 * 2 || y >= self.height as i32 * 4 {
            return;
        }
        let (column, row) = (x as usize / 2, y as usize / 4);
        let cell = &mut self.cells[row * self.width + column];
        cell.dots |= BITS[y as usize % 4][x as usize % 2];
        if cell.mark.is_none() || rank >= cell.rank {
            (cell.mark, cell.rank) = (Some(mark), rank);
        }
    }

    /// A line of dots. Source: J. E. Bresenham, "Algorithm for computer control of a digital
    /// plotter", IBM Systems Journal 4(1), 1965.
    pub fn line(&mut self, from: Flat, to: Flat, (mark, rank): (Mark, u8), stroke: Stroke) {
        let Some((from, to)) = self.clipped(from, to) else { return };
        let [x0, y0] = from.map(|at| at.floor() as i32);
        let [x1, y1] = to.map(|at| at.floor() as i32);
        let (dx, dy) = ((x1 - x0).abs(), -(y1 - y0).abs());
        let (right, down) = ((x1 - x0).signum(), (y1 - y0).signum());
        let (mut x, mut y, mut error, mut step) = (x0, y0, dx + dy, 0);
        loop {
            let draws = match stroke {
                Stroke::Whole => true,
                Stroke::Dashed => step % 5 < 3,
                Stroke::Dotted => step % 4 == 0,
            };
            if draws {
                self.dot(x, y, mark, rank);
            }
            if x == x1 && y == y1 {
                break;
            }
            let twice = 2 * error;
            if twice >= dy {
                error += dy;
                x += right;
            }
            if twice <= dx {
                error += dx;
                y += down;
            }
            step += 1;
        }
    }

    /// What of a line lies within the canvas. Source: Y.-D. Liang, B. A. Barsky, "A new concept and
    /// method for line clipping", ACM Transactions on Graphics 3(1), 1984.
    fn clipped(&self, from: Flat, to: Flat) -> Option<(Flat, Flat)> {
        let most = self.dots().map(|length| length - 1e-6);
        let way = [to[0] - from[0], to[1] - from[1]];
        let (mut begins, mut ends) = (0.0_f64, 1.0_f64);
        for axis in 0..2 {
            for (slope, room) in [(-way[axis], from[axis]), (way[axis], most[axis] - from[axis])] {
                if slope == 0.0 {
                    if room < 0.0 {
                        return None;
                    }
                } else if slope < 0.0 {
                    begins = begins.max(room / slope);
                } else {
                    ends = ends.min(room / slope);
                }
            }
        }
        let at = |part: f64| [from[0] + way[0] * part, from[1] + way[1] * part];
        (begins <= ends).then(|| (at(begins), at(ends)))
    }

    /// A closed outline.
    pub fn outline(&mut self, points: &[Flat], mark: (Mark, u8), stroke: Stroke) {
        for (index, from) in points.iter().enumerate() {
            self.line(*from, points[(index + 1) % points.len()], mark, stroke);
        }
    }

    /// Fills a convex outline.
    pub fn fill(&mut self, points: &[Flat], (mark, rank): (Mark, u8), fill: Fill) {
        let [wide, high] = self.dots();
        let rows = points.iter().map(|point| point[1]);
        let top = rows.clone().fold(f64::INFINITY, f64::min).max(0.0).ceil() as i32;
        let bottom = rows.fold(f64::NEG_INFINITY, f64::max).min(high - 1.0).floor() as i32;
        for y in top..=bottom {
            let line = f64::from(y);
            let (mut left, mut right) = (f64::INFINITY, f64::NEG_INFINITY);
            for (index, [x0, y0]) in points.iter().enumerate() {
                let [x1, y1] = points[(index + 1) % points.len()];
                if (*y0 <= line) != (y1 <= line) {
                    let x = x0 + (x1 - x0) * (line - y0) / (y1 - y0);
                    (left, right) = (left.min(x), right.max(x));
                }
            }
            if left > right {
                continue;
            }
            for x in left.max(0.0).ceil() as i32..=right.min(wide - 1.0).floor() as i32 {
                let draws = match fill {
                    Fill::Stone => x % 2 == 0 && y % 2 == 0,
                    Fill::Sparse => (x + y) % 6 == 0,
                    Fill::Dense => (x + y) % 3 == 0,
                };
                if draws {
                    self.dot(x, y, mark, rank);
                }
            }
        }
    }

    /// The cell at a place in dots, if it is within.
    pub fn cell_at(&self, [x, y]: Flat) -> Option<(usize, usize)> {
        let [wide, high] = self.dots();
        let within = (0.0..wide).contains(&x) && (0.0..high).contains(&y);
        within.then(|| ((x / 2.0) as usize, (y / 4.0) as usize))
    }

    /// A letter at a place in dots, above all dots.
    pub fn letter(&mut self, at: Flat, letter: char, mark: Mark, bold: bool) {
        if let Some((column, row)) = self.cell_at(at) {
            let cell = &mut self.cells[row * self.width + column];
            (cell.letter, cell.mark, cell.rank, cell.bold) = (Some(letter), Some(mark), 200, bold);
        }
    }

    /// A text beginning at a cell, if no letter is there yet.
    pub fn text(
        &mut self,
        (column, row): (usize, usize),
        text: &str,
        mark: Mark,
        bold: bool,
    ) -> bool {
        let length = text.chars().count();
        if row >= self.height || column + length > self.width {
            return false;
        }
        let start = row * self.width + column;
        let before = column.checked_sub(1).map_or(start, |_| start - 1);
        let taken =
            self.cells[before..start + length].iter().any(|cell| {
                cell.letter.is_some_and(|letter| letter.is_alphanumeric() || letter == '_')
            }) || self.cells[start..start + length].iter().any(|cell| cell.letter.is_some());
        if taken {
            return false;
        }
        for (cell, letter) in self.cells[start..].iter_mut().zip(text.chars()) {
            (cell.letter, cell.mark, cell.rank, cell.bold) = (Some(letter), Some(mark), 190, bold);
        }
        true
    }

    /// Puts it into a buffer.
    pub fn draw(&self, area: Rect, buffer: &mut Buffer, colour: &dyn Fn(Mark) -> Colour) {
        for (row, line) in self.cells.chunks(self.width.max(1)).enumerate() {
            for (column, cell) in line.iter().enumerate() {
                let Some(mark) = cell.mark else { continue };
                let letter = cell.letter.unwrap_or_else(|| {
                    char::from_u32(0x2800 + u32::from(cell.dots)).unwrap_or(' ')
                });
                let mut style = Style::new().fg(rgb(colour(mark)));
                if cell.bold {
                    style = style.add_modifier(Modifier::BOLD);
                }
                let at = (area.x + column as u16, area.y + row as u16);
                if let Some(there) = buffer.cell_mut(at) {
                    there.set_char(letter).set_style(style);
                }
            }
        }
    }
}

/// A colour as terminals take it.
pub(super) fn rgb(colour: Colour) -> Color {
    Color::Rgb(colour.0, colour.1, colour.2)
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    const MARK: (Mark, u8) = (Mark::Solid, 1);

    /// The dots that are drawn, as places.
    fn dots(canvas: &Canvas) -> Vec<(usize, usize)> {
        let mut all = Vec::new();
        for (index, cell) in canvas.cells.iter().enumerate() {
            let (column, row) = (index % canvas.width, index / canvas.width);
            for (y, bits) in BITS.iter().enumerate() {
                for (x, bit) in bits.iter().enumerate() {
                    if cell.dots & bit != 0 {
                        all.push((column * 2 + x, row * 4 + y));
                    }
                }
            }
        }
        all
    }

    proptest! {
        /// A line has no gaps, lies along the straight line, and nothing far outside panics.
        #[test]
        fn lines_are_straight_and_without_gaps(
            from in [-50.0..130.0, -50.0..130.0_f64],
            to in [-50.0..130.0, -50.0..130.0_f64],
        ) {
            let mut canvas = Canvas::new(40, 20);
            canvas.line(from, to, MARK, Stroke::Whole);
            let (dx, dy) = (to[0] - from[0], to[1] - from[1]);
            let length = dx.hypot(dy).max(1e-9);
            for (x, y) in dots(&canvas) {
                let (x, y) = (x as f64 + 0.5, y as f64 + 0.5);
                let off = ((x - from[0]) * dy - (y - from[1]) * dx).abs() / length;
                prop_assert!(off < 1.8, "{off}");
            }
            let all = dots(&canvas);
            let near = |one: &(usize, usize), other: &(usize, usize)| {
                one != other && one.0.abs_diff(other.0) <= 1 && one.1.abs_diff(other.1) <= 1
            };
            prop_assert!(all.len() < 2 || all.iter().all(|dot| all.iter().any(|it| near(dot, it))));
        }

        /// A fill stays within its outline, and is the sparser the calmer.
        #[test]
        fn fills_stay_within(middle in [10.0..70.0, 10.0..70.0_f64], radius in 2.0..30.0) {
            let point = |step: u32| {
                let angle = f64::from(step) / 12.0 * std::f64::consts::TAU;
                [middle[0] + radius * angle.cos(), middle[1] + radius * angle.sin()]
            };
            let points: Vec<Flat> = (0..12).map(point).collect();
            let count = |fill| {
                let mut canvas = Canvas::new(40, 20);
                canvas.fill(&points, MARK, fill);
                let all = dots(&canvas);
                let far = |(x, y): &(usize, usize)| {
                    (*x as f64 - middle[0]).hypot(*y as f64 - middle[1])
                };
                assert!(all.iter().all(|dot| far(dot) <= radius + 1e-6));
                all.len()
            };
            let (sparse, dense) = (count(Fill::Sparse), count(Fill::Dense));
            prop_assert!(sparse <= dense);
        }
    }

    #[test]
    fn texts_do_not_run_into_one_another() {
        let mut canvas = Canvas::new(20, 2);
        assert!(canvas.text((2, 0), "mill", Mark::Marker, false));
        assert!(!canvas.text((4, 0), "pond", Mark::Marker, false), "over it");
        assert!(!canvas.text((6, 0), "pond", Mark::Marker, false), "right beside it");
        assert!(canvas.text((7, 0), "pond", Mark::Marker, false));
        assert!(!canvas.text((18, 1), "pond", Mark::Marker, false), "beyond the edge");
        assert!(!canvas.text((0, 2), "pond", Mark::Marker, false));
    }

    #[test]
    fn what_lies_on_top_colours_a_cell() {
        let mut canvas = Canvas::new(4, 4);
        canvas.line([0.0, 0.0], [7.0, 0.0], (Mark::Player, 9), Stroke::Whole);
        canvas.line([0.0, 1.0], [7.0, 1.0], (Mark::Solid, 1), Stroke::Dashed);
        assert!(canvas.cells[..4].iter().all(|cell| cell.mark == Some(Mark::Player)));
        let dashed = dots(&canvas).iter().filter(|dot| dot.1 == 1).count();
        assert!((4..8).contains(&dashed), "{dashed}");
    }
}
