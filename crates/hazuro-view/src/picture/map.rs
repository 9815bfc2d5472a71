//! The scene itself in a picture: to scale, with names, ways that were gone and events.

use std::collections::BTreeMap;

use hazuro::glam::DVec3;
use hazuro::{EntityId, Entry, Time};

use crate::figures::{Drawn, Figure};
use crate::recording::Recording;
use crate::theme::Mark;
use crate::view::{Flat, View, Window};

use super::labels::{self, Label, Rect};
use super::svg::{Anchor, Svg, along, short};

/// What is drawn in one frame.
pub(crate) struct Map<'a> {
    pub view: View,
    pub window: Window,
    pub figures: &'a [Figure<'a>],
    /// The ways gone within the span.
    pub recording: Option<&'a Recording>,
    pub span: (Time, Time),
    /// The entities whose ways are drawn. The default is every entity that moved.
    pub only: Option<&'a [EntityId]>,
    /// Numbered places.
    pub events: Vec<(usize, DVec3)>,
    /// How high the floor lies, if there is one.
    pub floor: Option<f64>,
}

/// A frame of a picture, in pixels.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Frame {
    pub at: Flat,
    pub size: [f64; 2],
}

/// From metres to pixels.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Scale {
    pub pixels: f64,
    origin: Flat,
}

impl Scale {
    /// Shows as much of a window as fits, in the middle of a frame.
    pub fn new(window: &Window, frame: &Frame) -> Self {
        let [width, height] = window.size().map(|length| length.max(1e-3));
        let pixels = (frame.size[0] / width).min(frame.size[1] / height);
        let middle = window.middle();
        let origin = [
            frame.at[0] + frame.size[0] / 2.0 - middle[0] * pixels,
            frame.at[1] + frame.size[1] / 2.0 + middle[1] * pixels,
        ];
        Self { pixels, origin }
    }

    pub fn pixel(&self, [x, y]: Flat) -> Flat {
        [self.origin[0] + x * self.pixels, self.origin[1] - y * self.pixels]
    }

    /// What of the drawing the frame shows.
    pub fn window(&self, frame: &Frame) -> Window {
        let metres =
            |[x, y]: Flat| [(x - self.origin[0]) / self.pixels, (self.origin[1] - y) / self.pixels];
        let [width, height] = frame.size;
        let far = [frame.at[0] + width, frame.at[1] + height];
        Window::EMPTY.and(metres(frame.at)).and(metres(far))
    }
}

/// In which order marks are drawn: the later the more on top.
pub(super) fn depth(mark: Mark) -> u8 {
    match mark {
        Mark::Ground => 0,
        Mark::Sight => 1,
        Mark::Solid => 2,
        Mark::Offer => 3,
        Mark::Off => 4,
        Mark::Idle => 5,
        Mark::Occupied => 6,
        Mark::Fired => 7,
        Mark::Route => 8,
        Mark::Ray | Mark::Target => 9,
        Mark::Path => 10,
        Mark::Body => 11,
        Mark::Player => 12,
        _ => 13,
    }
}

/// How much a name weighs: who would rather be named.
fn weight(mark: Mark) -> u8 {
    match mark {
        Mark::Player => 9,
        Mark::Fired => 8,
        Mark::Occupied => 7,
        Mark::Body => 6,
        Mark::Offer => 5,
        Mark::Idle => 4,
        Mark::Off => 3,
        Mark::Solid => 2,
        Mark::Marker => 1,
        _ => 0,
    }
}

/// Draws a map into a frame. The marks that are in it, and the names for which there was no room.
pub(crate) fn draw(svg: &mut Svg, frame: &Frame, map: &Map<'_>) -> (Vec<Mark>, Vec<String>) {
    let scale = Scale::new(&map.window, frame);
    let shown = scale.window(frame);
    let mut marks = Vec::new();
    svg.begin("map", &[("data-view", map.view.word())]);
    svg.begin_clip(frame.at, frame.size);
    grid(svg, &scale, &shown);
    if let (Some(floor), false) = (map.floor, map.view == View::Top) {
        let [left, right] = [shown.min[0], shown.max[0]].map(|x| scale.pixel([x, floor]));
        svg.line("rule", left, right);
    }
    let mut order: Vec<&Figure<'_>> = map.figures.iter().collect();
    order.sort_by(|one, other| {
        let near = |figure: &Figure<'_>| map.view.nearness(figure.place());
        depth(one.mark).cmp(&depth(other.mark)).then(near(one).total_cmp(&near(other)))
    });
    let split = order.partition_point(|figure| depth(figure.mark) < depth(Mark::Path));
    let (below, above) = order.split_at(split);
    for figure in below {
        draw_figure(svg, &scale, &shown, map.view, figure, &mut marks);
    }
    paths(svg, &scale, map, &mut marks);
    for figure in above {
        draw_figure(svg, &scale, &shown, map.view, figure, &mut marks);
    }
    let mut taken = furniture(frame);
    let numbers = numbers(svg, &scale, map, &mut taken);
    if numbers {
        marks.push(Mark::Event);
    }
    let left_out = names(svg, &scale, frame, (map.view, map.figures), taken);
    svg.end();
    svg.rect("frame", frame.at, frame.size);
    ruler(svg, frame, &scale);
    compass(svg, frame, map.view);
    svg.end();
    (marks, left_out)
}

/// The corners where ruler and compass stand.
pub(super) fn furniture(frame: &Frame) -> Vec<Rect> {
    let ([x, y], [width, height]) = (frame.at, frame.size);
    vec![
        ([x, y + height - 34.0], [x + 190.0, y + height]),
        ([x + width - 54.0, y], [x + width, y + 62.0]),
    ]
}

/// A number that is 1, 2 or 5 times a power of ten, at least so large.
pub(crate) fn round_up(least: f64) -> f64 {
    let power = 10_f64.powf(least.max(1e-9).log10().floor());
    let steps = [1.0, 2.0, 5.0, 10.0].map(|step| step * power);
    steps.into_iter().find(|step| *step >= least * (1.0 - 1e-9)).unwrap_or(least)
}

pub(super) fn grid(svg: &mut Svg, scale: &Scale, shown: &Window) {
    let step = round_up(70.0 / scale.pixels);
    let mut d = String::new();
    for axis in 0..2 {
        let first = (shown.min[axis] / step).ceil() as i64;
        let last = (shown.max[axis] / step).floor() as i64;
        for line in first..=last {
            let at = line as f64 * step;
            let ends = [shown.min[1 - axis], shown.max[1 - axis]];
            let ends = ends.map(|end| scale.pixel(if axis == 0 { [at, end] } else { [end, at] }));
            d += &along(&ends, false);
        }
    }
    svg.path("grid", &d);
}

pub(super) fn draw_figure(
    svg: &mut Svg,
    scale: &Scale,
    shown: &Window,
    view: View,
    figure: &Figure<'_>,
    marks: &mut Vec<Mark>,
) {
    let code = figure.mark.code();
    let class = format!("m-{code}");
    let window = figure.window(view);
    let endless = window.is_empty();
    if !endless && !window.meets(shown) {
        return;
    }
    let pixels =
        |points: &[Flat]| points.iter().map(|point| scale.pixel(*point)).collect::<Vec<_>>();
    let entity = figure.entity.index().to_string();
    match &figure.drawn {
        Drawn::Line(points) => {
            let points: Vec<Flat> = points.iter().map(|point| view.flat(*point)).collect();
            svg.path_with(&class, &along(&pixels(&points), false), "fill=\"none\"");
        }
        Drawn::Point(place) => {
            let at = scale.pixel(view.flat(*place));
            svg.begin(&format!("d-{code}"), &[("data-e", &entity)]);
            sign(svg, figure.mark, at);
            svg.end();
        }
        Drawn::Form(form, _) if form.is_ground() => ground(svg, scale, shown, view, figure),
        _ => {
            let outlines = figure.outlines(view, shown);
            if outlines.is_empty() {
                return;
            }
            let d: Vec<String> =
                outlines.iter().map(|outline| along(&pixels(&outline.points), true)).collect();
            svg.begin(&format!("d-{code}"), &[("data-e", &entity)]);
            svg.path(&class, &d.concat());
            if figure.mark == Mark::Off && !endless {
                let ([x0, y0], [x1, y1]) = (scale.pixel(window.min), scale.pixel(window.max));
                svg.path(&class, &along(&[[x0, y0], [x1, y1]], false));
                svg.path(&class, &along(&[[x0, y1], [x1, y0]], false));
            }
            facing(svg, scale, view, figure);
            svg.end();
        }
    }
    if !marks.contains(&figure.mark) {
        marks.push(figure.mark);
    }
}

/// A beak at the side to which a body faces.
fn facing(svg: &mut Svg, scale: &Scale, view: View, figure: &Figure<'_>) {
    let Some([x, y]) = figure.facing(view) else { return };
    let window = figure.window(view);
    let [width, height] = window.size();
    let (half, middle) = (width.min(height) / 2.0 * scale.pixels, scale.pixel(window.middle()));
    let size = half.clamp(3.0, 9.0);
    let at = |ahead: f64, aside: f64| {
        [middle[0] + x * ahead - y * aside, middle[1] - y * ahead - x * aside]
    };
    let edge = half.max(3.0);
    let beak = [at(edge + size, 0.0), at(edge - 1.0, size * 0.6), at(edge - 1.0, -size * 0.6)];
    svg.path(&format!("t-{}", figure.mark.code()), &along(&beak, true));
}

/// Facets of ground, in shades by height; what lies deeper is darker.
fn ground(svg: &mut Svg, scale: &Scale, shown: &Window, view: View, figure: &Figure<'_>) {
    const SHADES: usize = 8;
    let outlines = figure.outlines(view, shown);
    let near = outlines.iter().map(|outline| outline.nearness);
    let (least, most) =
        near.fold((f64::INFINITY, f64::NEG_INFINITY), |(a, b), it| (a.min(it), b.max(it)));
    let mut shades: BTreeMap<usize, String> = BTreeMap::new();
    for outline in outlines.iter().filter(|outline| outline.window().meets(shown)) {
        let part = if most > least { (outline.nearness - least) / (most - least) } else { 1.0 };
        let shade =
            if view == View::Top { ((1.0 - part) * (SHADES - 1) as f64).round() } else { 0.0 };
        let points: Vec<Flat> = outline.points.iter().map(|point| scale.pixel(*point)).collect();
        *shades.entry(shade as usize).or_default() += &along(&points, true);
    }
    for (shade, d) in shades {
        let opacity = 0.14 + 0.4 * shade as f64 / (SHADES - 1) as f64;
        svg.path_with("m-ground", &d, &format!("style=\"fill-opacity:{opacity:.2}\""));
    }
}

/// The sign of a mark at a place, about ten pixels wide.
pub(crate) fn sign(svg: &mut Svg, mark: Mark, [x, y]: Flat) {
    let class = format!("m-{} sign", mark.code());
    let diamond = |r: f64| along(&[[x, y - r], [x + r, y], [x, y + r], [x - r, y]], true);
    match mark {
        Mark::Idle => svg.circle(&class, [x, y], 4.0),
        Mark::Occupied => {
            svg.circle(&class, [x, y], 4.0);
            svg.circle(&format!("t-{}", mark.code()), [x, y], 2.6);
        }
        Mark::Fired => svg.path(&format!("t-{}", mark.code()), &diamond(6.0)),
        Mark::Off => {
            svg.circle(&class, [x, y], 4.0);
            let (a, b) = (3.0, -3.0);
            svg.path(&class, &along(&[[x + a, y + a], [x + b, y + b]], false));
            svg.path(&class, &along(&[[x + a, y + b], [x + b, y + a]], false));
        }
        Mark::Hit => {
            svg.circle(&class, [x, y], 4.5);
            svg.circle(&format!("t-{}", mark.code()), [x, y], 1.6);
        }
        Mark::Offer => svg.path(&class, &diamond(5.0)),
        Mark::Refused => {
            let down = [[x - 5.0, y - 4.0], [x + 5.0, y - 4.0], [x, y + 5.0]];
            svg.path(&class, &along(&down, true));
        }
        Mark::Said => {
            let on = [[x - 3.0, y - 4.0], [x + 4.0, y], [x - 3.0, y + 4.0]];
            svg.path(&class, &along(&on, true));
        }
        Mark::Event => svg.path(&class, &diamond(4.5)),
        _ => {
            svg.path(&class, &along(&[[x - 3.5, y], [x + 3.5, y]], false));
            svg.path(&class, &along(&[[x, y - 3.5], [x, y + 3.5]], false));
        }
    }
}

/// The ways that were gone within the span, each with an arrow's head at its end.
fn paths(svg: &mut Svg, scale: &Scale, map: &Map<'_>, marks: &mut Vec<Mark>) {
    let Some(recording) = map.recording else { return };
    let wanted = |id: &&EntityId| map.only.is_none_or(|only| only.contains(id));
    for way in recording.tracks.keys().filter(wanted).flat_map(|id| recording.ways(*id, map.span)) {
        let mut points: Vec<Flat> =
            way.into_iter().map(|place| scale.pixel(map.view.flat(place))).collect();
        points.dedup_by(|a, b| (a[0] - b[0]).hypot(a[1] - b[1]) < 0.3);
        let [.., [x0, y0], [x1, y1]] = points[..] else { continue };
        svg.path_with("m-path", &along(&points, false), "fill=\"none\" stroke-linejoin=\"round\"");
        let length = (x1 - x0).hypot(y1 - y0);
        let (dx, dy) = ((x1 - x0) / length, (y1 - y0) / length);
        let back = |aside: f64| [x1 - dx * 8.0 - dy * aside, y1 - dy * 8.0 + dx * aside];
        svg.path("t-path", &along(&[[x1, y1], back(4.0), back(-4.0)], true));
        if !marks.contains(&Mark::Path) {
            marks.push(Mark::Path);
        }
    }
}

/// The numbered places. Whether there are any.
fn numbers(svg: &mut Svg, scale: &Scale, map: &Map<'_>, taken: &mut Vec<Rect>) -> bool {
    // Several at one place share a mark.
    let mut shared: Vec<(Flat, Vec<usize>)> = Vec::new();
    for (number, place) in &map.events {
        let at = scale.pixel(map.view.flat(*place));
        let near = |(other, _): &&mut (Flat, Vec<usize>)| {
            (other[0] - at[0]).abs() < 30.0 && (other[1] - at[1]).abs() < 15.0
        };
        match shared.iter_mut().find(near) {
            Some((_, numbers)) => numbers.push(*number),
            None => shared.push((at, vec![*number])),
        }
    }
    for ([x, y], numbers) in &shared {
        let text = span_words(numbers);
        let half = super::letters::width(&text, 10.0) / 2.0 + 4.0;
        let rect = ([x - half, y - 8.0], [x + half, y + 8.0]);
        svg.path_with(
            "m-event",
            &format!(
                "M{} {}h{}v14h{}Z",
                short(x - half),
                short(y - 7.0),
                short(2.0 * half),
                short(-2.0 * half)
            ),
            "stroke=\"none\"",
        );
        svg.text("onmark", [*x, y + 3.6], 10.0, Anchor::Middle, &text);
        taken.push(rect);
    }
    !shared.is_empty()
}

/// Numbers in few words: 1-3, 7.
fn span_words(numbers: &[usize]) -> String {
    let mut words: Vec<String> = Vec::new();
    let mut index = 0;
    while index < numbers.len() {
        let first = numbers[index];
        let mut last = first;
        while numbers.get(index + 1) == Some(&(last + 1)) {
            index += 1;
            last = numbers[index];
        }
        words.push(if first == last { first.to_string() } else { format!("{first}–{last}") });
        index += 1;
    }
    if words.len() > 3 {
        words.truncate(2);
        words.push("…".into());
    }
    words.join(", ")
}

pub(super) fn names(
    svg: &mut Svg,
    scale: &Scale,
    frame: &Frame,
    (view, figures): (View, &[Figure<'_>]),
    mut taken: Vec<Rect>,
) -> Vec<String> {
    let shown = scale.window(frame);
    let mut wanted: BTreeMap<(EntityId, String), Label> = BTreeMap::new();
    for figure in figures {
        let Some(text) = &figure.label else { continue };
        let window = figure.window(view);
        let [width, height] = if window.is_empty() { [0.0; 2] } else { window.size() };
        let is_large = width.max(height) > shown.size()[0].max(shown.size()[1]) * 0.6;
        let endless = matches!(&figure.drawn, Drawn::Form(form, _) if form.is_endless());
        if endless && view == View::Top {
            continue;
        }
        let middle = if window.is_empty() { view.flat(figure.place()) } else { window.middle() };
        if !window.is_empty() && !window.meets(&shown) {
            continue;
        }
        // What is larger than the picture, or whose middle is beside it, is named where it is seen.
        let middle = if is_large || !shown.holds(middle) {
            let seen = window.clipped(&shown);
            if seen.is_empty() { view.flat(figure.place()) } else { seen.upper_left(0.02) }
        } else {
            middle
        };
        if !shown.holds(middle) {
            continue;
        }
        let half = width.min(height) / 2.0 * scale.pixels;
        let at = scale.pixel(middle);
        let is_body = matches!(figure.mark, Mark::Player | Mark::Body);
        if is_body || matches!(figure.drawn, Drawn::Point(_)) {
            let r = half.clamp(4.0, 12.0);
            taken.push(([at[0] - r, at[1] - r], [at[0] + r, at[1] + r]));
        }
        let gap = if is_body { half.clamp(4.0, 30.0) } else { half.clamp(5.0, 14.0) };
        let weight = weight(figure.mark);
        let class = if weight > 4 { "ink" } else { "faint" };
        let label =
            Label { at, gap, text: text.clone(), of: figure.entity, class: class.into(), weight };
        let key = (figure.entity, text.clone());
        // An entity is named once.
        let known = wanted.entry(key).or_insert_with(|| label.clone());
        if known.weight < label.weight {
            *known = label;
        }
    }
    let ([x, y], [width, height]) = (frame.at, frame.size);
    let area = ([x + 2.0, y + 2.0], [x + width - 2.0, y + height - 2.0]);
    let (placed, left_out) = labels::place(wanted.into_values().collect(), area, taken);
    for name in &placed {
        let [x, y] = name.begins;
        svg.begin("name", &[("data-e", &name.label.of.index().to_string())]);
        let width = super::letters::width(&name.label.text, labels::SIZE);
        if name.led {
            let to = [x + width / 2.0, y - 4.0];
            svg.line("leader", name.label.at, to);
        }
        svg.rect("halo", [x - 1.0, y - labels::SIZE + 1.0], [width + 2.0, labels::SIZE + 2.0]);
        svg.text(&name.label.class, name.begins, labels::SIZE, Anchor::Start, &name.label.text);
        svg.end();
    }
    left_out
}

pub(super) fn ruler(svg: &mut Svg, frame: &Frame, scale: &Scale) {
    let metres = round_up(60.0 / scale.pixels);
    let long = metres * scale.pixels;
    let (x, y) = (frame.at[0] + 12.0, frame.at[1] + frame.size[1] - 12.0);
    svg.rect("halo", [x - 6.0, y - 20.0], [long + 60.0, 28.0]);
    svg.path("rule", &along(&[[x, y - 6.0], [x, y], [x + long, y], [x + long, y - 6.0]], false));
    let half = [x + long / 2.0, y];
    svg.line("rule", half, [half[0], y - 4.0]);
    let text = if metres < 1.0 {
        format!("{} cm", (metres * 100.0).round())
    } else {
        format!("{metres} m")
    };
    svg.text("ink", [x + long + 6.0, y], 11.0, Anchor::Start, &text);
}

pub(super) fn compass(svg: &mut Svg, frame: &Frame, view: View) {
    let (x, y) = (frame.at[0] + frame.size[0] - 27.0, frame.at[1] + 38.0);
    svg.rect("halo", [x - 22.0, y - 34.0], [44.0, 54.0]);
    let arrow = [[x, y - 18.0], [x + 6.0, y + 4.0], [x, y], [x - 6.0, y + 4.0]];
    svg.path("ink", &along(&arrow, true));
    let (up, right, left) = match view {
        View::Top => ("N", "E", "W"),
        View::Front => ("up", "E", "W"),
        View::Side => ("up", "N", "S"),
    };
    svg.text("ink", [x, y - 22.0], 11.0, Anchor::Middle, up);
    svg.text("faint", [x + 13.0, y + 8.0], 9.0, Anchor::Middle, right);
    svg.text("faint", [x - 13.0, y + 8.0], 9.0, Anchor::Middle, left);
}

/// Where and as what events are numbered: those that begin something, or happen for a moment.
pub(crate) fn numbered(
    entries: &[Entry],
    (from, until): (Time, Time),
    place: &dyn Fn(&hazuro::Event) -> Option<DVec3>,
) -> Vec<(usize, DVec3, usize)> {
    let events = entries.iter().enumerate().filter_map(|(index, entry)| {
        let event = entry.event()?;
        let fires = event.kind.detector().is_some() && !crate::figures::closes_only(event.kind);
        let within = (from..=until).contains(&event.time);
        (fires && within).then_some((index, place(event)?))
    });
    events.enumerate().map(|(number, (index, place))| (number + 1, place, index)).collect()
}
