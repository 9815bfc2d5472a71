//! Pictures: a scene to scale, with rulers, names, legend, ways that were gone and events.

mod chart;
mod labels;
mod legend;
mod letters;
mod live;
mod map;
mod png;
mod svg;

pub use chart::chart;
pub(crate) use chart::chart_inline;
pub(crate) use map::round_up;
pub use png::{PngError, png};
pub(crate) use svg::{HATCHES, escape, page_style};

use hazuro::glam::DVec3;
use hazuro::{EntityId, Event, Play, Time};

use crate::figures::{Figure, Firings, figures};
use crate::recording::Recording;
use crate::theme::{DARK, LIGHT, Mark};
use crate::view::{View, Window};
use live::Live;
use map::{Frame, Map};
use svg::{Anchor, Svg};

/// The least and the greatest width and height of a picture, in pixels.
pub const SIZES: std::ops::RangeInclusive<u32> = 200..=8000;
/// How wide the column of legend and events is.
const COLUMN: f64 = 268.0;
/// How high the title is.
const TITLE: f64 = 46.0;
/// Around everything.
const MARGIN: f64 = 14.0;

/// A picture of one moment of a play, with what went before if there is a recording of it.
///
/// ```
/// use hazuro::{Play, Scene, geometry::Shape, scene::{Entity, Zone}};
/// use hazuro_view::{Firings, Picture, png};
/// let pad = Entity::new("pad").zone(Zone::new(Shape::Box { size: [4.0, 2.0, 4.0] }));
/// let play = Play::new(Scene::builder("Yard").entity(pad).build()?);
/// let firings = Firings::default();
/// let svg = Picture::new(&play, &firings).svg();
/// assert!(svg.contains("aria-label=\"pad\""));
/// assert_eq!(&png(&svg)?[1..4], b"PNG");
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug)]
pub struct Picture<'a> {
    /// The moment.
    pub play: &'a Play,
    /// What fired last.
    pub firings: &'a Firings,
    /// The play up to there: ways and events.
    pub recording: Option<&'a Recording>,
    /// From when to when ways and events are drawn.
    pub span: (Time, Time),
    /// From which sides, side by side.
    pub views: Vec<View>,
    /// Only these are named and decide what is shown, beside what is solid; all if there are none.
    pub only: Vec<EntityId>,
    /// Only what lies around this place, within this distance to each side, in metres.
    pub around: Option<(DVec3, f64)>,
    /// Width and height in pixels, within [`SIZES`].
    pub size: [u32; 2],
    /// On dark ground.
    pub dark: bool,
}

impl<'a> Picture<'a> {
    /// From above, 1280 by 800 pixels, of everything, on light ground.
    pub fn new(play: &'a Play, firings: &'a Firings) -> Self {
        Self {
            play,
            firings,
            recording: None,
            span: (Time::ZERO, play.now()),
            views: vec![View::Top],
            only: Vec::new(),
            around: None,
            size: [1280, 800],
            dark: false,
        }
    }

    /// The picture as an SVG file.
    pub fn svg(&self) -> String {
        let size = self.size.map(|length| f64::from(length.clamp(*SIZES.start(), *SIZES.end())));
        let mut svg = Svg::new("", size);
        let (title, under) = self.title();
        svg.text("ink", [MARGIN, 26.0], 18.0, Anchor::Start, &title);
        svg.text("faint", [MARGIN, 41.0], 11.0, Anchor::Start, &under);
        // What is narrow has no room for a column beside.
        let column = if size[0] > 700.0 { COLUMN } else { 0.0 };
        let room = [size[0] - 2.0 * MARGIN - column, size[1] - TITLE - MARGIN - 4.0];
        self.maps(&mut svg, ([MARGIN, TITLE + 4.0], room), column > 0.0);
        let palette = if self.dark { DARK } else { LIGHT };
        svg.finish(&format!("{title}: {under}"), &palette)
    }

    /// The map from above alone, to stand in a page.
    pub(crate) fn map_inline(&self) -> String {
        let size = self.size.map(f64::from);
        let mut svg = Svg::new("m", size);
        let frame = Frame { at: [1.0, 1.0], size: size.map(|length| length - 2.0) };
        let shown = self.figures();
        let (map, _) = self.map(View::Top, &shown);
        map::draw(&mut svg, &frame, &map);
        svg.finish_inline(&format!("{}, from above", self.play.scene().title()))
    }

    /// Begins a map from above that is put together figure by figure, to stand in a page. It shows
    /// what this picture shows.
    pub(crate) fn live(&self) -> Live {
        let size = self.size.map(f64::from);
        let frame = Frame { at: [1.0, 1.0], size: size.map(|length| length - 2.0) };
        let window = self.window(View::Top, &self.figures());
        Live::new(self.play.scene().title(), frame, &window)
    }

    fn title(&self) -> (String, String) {
        let (from, until) = self.span;
        let seconds = |time: Time| format!("{:.3}", time.secs());
        let when = match self.recording {
            Some(_) if until > from => {
                format!("ways and events from {} to {} s", seconds(from), seconds(until))
            }
            _ => format!("at {} s", seconds(self.play.now())),
        };
        let views: Vec<&str> = self.views.iter().map(|view| view.describe()).collect();
        (self.play.scene().title().to_owned(), format!("{}, {when}", views.join(", ")))
    }

    /// The figures shown, and of those that are not asked for, what is solid, without its name.
    fn figures(&self) -> Vec<Figure<'a>> {
        let mut shown = figures(self.play, self.firings);
        if !self.only.is_empty() {
            shown.retain_mut(|figure| {
                if self.only.contains(&figure.entity) {
                    return true;
                }
                figure.label = None;
                matches!(figure.mark, Mark::Ground | Mark::Solid)
            });
        }
        shown
    }

    /// The figures that decide how much is shown.
    fn window(&self, view: View, shown: &[Figure<'_>]) -> Window {
        if let Some((place, far)) = self.around {
            return Window::around(view.flat(place), [2.0 * far; 2]);
        }
        let counts = |figure: &&Figure<'_>| {
            let wanted = self.only.is_empty() || self.only.contains(&figure.entity);
            wanted && !matches!(figure.mark, Mark::Ground | Mark::Sight | Mark::Offer)
        };
        let all = |figures: &mut dyn Iterator<Item = &Figure<'_>>| {
            figures.fold(Window::EMPTY, |all, figure| all.join(figure.window(view)))
        };
        let mut window = all(&mut shown.iter().filter(counts));
        for (_, track) in self
            .recording
            .iter()
            .flat_map(|recording| &recording.tracks)
            .filter(|(id, _)| self.only.is_empty() || self.only.contains(id))
        {
            let (from, until) = self.span;
            for seen in track.iter().filter(|seen| (from..=until).contains(&seen.time)) {
                window = window.and(view.flat(seen.place));
            }
        }
        if window.is_empty() {
            window = all(&mut shown.iter());
        }
        if window.is_empty() {
            window = Window::around([0.0; 2], [10.0; 2]);
        }
        let [width, height] = window.size();
        window.grown(0.6 + 0.03 * width.max(height))
    }

    fn map<'b>(&'b self, view: View, shown: &'b [Figure<'b>]) -> (Map<'b>, Vec<(usize, usize)>) {
        let window = self.window(view, shown);
        let place = |event: &Event| self.place_of(event);
        let recording = self.recording.filter(|_| self.span.1 > self.span.0);
        let entries = recording.map_or(&[][..], |recording| &recording.entries);
        let events = map::numbered(entries, self.span, &place);
        let wanted = |(_, _, index): &&(usize, DVec3, usize)| {
            let event = entries[*index].event();
            let names = event.map(|event| [event.on, event.who]);
            self.only.is_empty()
                || names.into_iter().flatten().flatten().any(|it| self.only.contains(&it))
        };
        let events: Vec<_> = events.iter().filter(wanted).copied().collect();
        let list = events.iter().map(|(number, _, index)| (*number, *index)).collect();
        let map = Map {
            view,
            window,
            figures: shown,
            recording,
            span: self.span,
            only: (!self.only.is_empty()).then_some(&self.only[..]),
            events: events.into_iter().map(|(number, place, _)| (number, place)).collect(),
            floor: self.play.scene().floor_height(),
        };
        (map, list)
    }

    /// Where an event happened: where its subject was then, or else its detector.
    fn place_of(&self, event: &Event) -> Option<DVec3> {
        let was = |id: EntityId| {
            let seen = self.recording.and_then(|recording| recording.at(id, event.time));
            seen.map_or_else(
                || self.play.pose(id).ok().map(|pose| pose.position),
                |it| Some(it.place),
            )
        };
        let met = event.meeting.map(|meeting| meeting.point);
        met.or(event.at).or_else(|| event.who.and_then(was)).or_else(|| event.on.and_then(was))
    }

    fn maps(&self, svg: &mut Svg, (at, room): ([f64; 2], [f64; 2]), column: bool) {
        let shown = self.figures();
        let frames = frames(at, room, self.views.len());
        let (mut marks, mut left_out, mut events) = (Vec::new(), Vec::new(), Vec::new());
        for (view, frame) in self.views.iter().zip(&frames) {
            let (map, list) = self.map(*view, &shown);
            let (seen, names) = map::draw(svg, frame, &map);
            marks.extend(seen);
            // Names that found no room in one view may have found it in another.
            left_out.push(names);
            events = list;
            if self.views.len() > 1 {
                let words = format!("{view}, {}", view.describe());
                let corner = [frame.at[0] + 8.0, frame.at[1] + 16.0];
                svg.rect("halo", [corner[0] - 4.0, corner[1] - 12.0], [150.0, 17.0]);
                svg.text("ink", corner, 12.0, Anchor::Start, &words);
            }
        }
        if column {
            let x = at[0] + room[0] + 16.0;
            let unnamed = left_out.into_iter().reduce(|mut all, other| {
                all.retain(|name| other.contains(name));
                all
            });
            let rest = legend::draw(svg, [x, at[1] + 4.0], &marks, &unnamed.unwrap_or_default());
            let entries = self.recording.map_or(&[][..], |recording| &recording.entries);
            let bottom = at[1] + room[1];
            legend::events(svg, [x, rest + 14.0], bottom, self.play.scene(), entries, &events);
        }
    }
}

/// One large frame, and the others beside it one above the other.
fn frames(at: [f64; 2], room: [f64; 2], number: usize) -> Vec<Frame> {
    const GAP: f64 = 10.0;
    if number < 2 {
        return vec![Frame { at, size: room }];
    }
    let left = ((room[0] - GAP) * 0.56).round();
    let others = (number - 1) as f64;
    let height = (room[1] - GAP * (others - 1.0)) / others;
    let beside = (0..number - 1).map(|index| Frame {
        at: [at[0] + left + GAP, at[1] + index as f64 * (height + GAP)],
        size: [room[0] - left - GAP, height],
    });
    std::iter::once(Frame { at, size: [left, room[1]] }).chain(beside).collect()
}
