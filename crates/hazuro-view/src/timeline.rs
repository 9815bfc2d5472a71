//! What happened, as rows along time: a row for each detector, with spans and marks.

use std::collections::BTreeMap;

use hazuro::scene::{Detector, EventKind, Scene};
use hazuro::{By, EntityId, Entry, Event, Happening, Time};

use crate::recording::Recording;
use crate::theme::Mark;

/// A timeline of a play.
///
/// ```
/// use hazuro::{Play, Scene, Time, geometry::Shape, scene::{Body, Entity, Zone}};
/// use hazuro_view::{Recording, Timeline};
/// let cube = Shape::Box { size: [1.0; 3] };
/// let scene = Scene::builder("Yard")
///     .entity(Entity::new("ball").body(Body::new(cube.clone())))
///     .entity(Entity::new("slot").zone(Zone::new(cube)))
///     .build()?;
/// let mut play = Play::new(scene);
/// let recording = Recording::of(&mut play, Time::from_secs(1.0));
/// let timeline = Timeline::of(play.scene(), &recording);
/// assert_eq!(timeline.rows[0].name, "slot");
/// assert_eq!(timeline.rows[0].spans[0].until, None, "the ball is still inside");
/// # Ok::<(), hazuro::scene::SceneErrors>(())
/// ```
#[derive(Clone, Debug, Default)]
pub struct Timeline {
    /// How long it is.
    pub until: Time,
    /// Its rows: detectors in the scene's order, then effects, cues and texts.
    pub rows: Vec<Row>,
}

/// A row of a timeline.
#[derive(Clone, Debug)]
pub struct Row {
    /// What it is about.
    pub name: String,
    /// More about that: the sort of detector.
    pub sort: &'static str,
    /// What lasts.
    pub spans: Vec<Span>,
    /// What happens in a moment.
    pub ticks: Vec<Tick>,
    /// How many spans lie above one another at most.
    pub lanes: usize,
}

/// Something that lasts.
#[derive(Clone, Debug, PartialEq)]
pub struct Span {
    /// Since when.
    pub from: Time,
    /// Until when; none if it still lasts at the end.
    pub until: Option<Time>,
    /// What it is: occupied, effect or cooldown.
    pub mark: Mark,
    /// By whom.
    pub who: String,
    /// In which lane of its row, from the top.
    pub lane: usize,
}

/// Something that happens in a moment.
#[derive(Clone, Debug, PartialEq)]
pub struct Tick {
    /// When.
    pub time: Time,
    /// What it is: an event, a text, a refusal.
    pub mark: Mark,
    /// In words.
    pub text: String,
    /// Which entry of the recording it is.
    pub entry: usize,
}

impl Row {
    fn new(name: &str, sort: &'static str) -> Self {
        Self { name: name.into(), sort, spans: Vec::new(), ticks: Vec::new(), lanes: 1 }
    }

    /// Gives each span the first lane that is free.
    fn arrange(&mut self) {
        self.spans.sort_by_key(|span| (span.mark == Mark::Cooldown, span.from));
        let mut ends: Vec<Time> = Vec::new();
        for span in &mut self.spans {
            let end = span.until.unwrap_or(Time::MAX);
            // A cooldown lies under whatever there is.
            if span.mark == Mark::Cooldown {
                continue;
            }
            let free = ends.iter().position(|until| *until <= span.from);
            span.lane = free.unwrap_or(ends.len());
            match free {
                Some(lane) => ends[lane] = end,
                None => ends.push(end),
            }
        }
        self.lanes = ends.len().max(1);
    }
}

impl Timeline {
    /// The timeline of what was filmed.
    pub fn of(scene: &Scene, recording: &Recording) -> Self {
        Self::laid_out(scene, &recording.entries, &recording.effects, recording.until)
    }

    /// The timeline of what happened, and of effects from when to when, until a time.
    pub(crate) fn laid_out(
        scene: &Scene,
        entries: &[Entry],
        effects: &[(EntityId, String, Time, Time)],
        end: Time,
    ) -> Self {
        let mut rows: BTreeMap<(u8, u32, u8), Row> = BTreeMap::new();
        let mut open: BTreeMap<(EntityId, Detector, EntityId), Time> = BTreeMap::new();
        for (index, entry) in entries.iter().enumerate() {
            match &entry.what {
                Happening::Event(event) => {
                    if let (Some(on), Some(detector)) = (event.on, event.kind.detector()) {
                        let key = (0, on.index() as u32, order(detector));
                        let row = rows
                            .entry(key)
                            .or_insert_with(|| Row::new(scene.name(on), detector.word()));
                        note(scene, row, &mut open, (event, index));
                        let cooldown = scene.limits_of(on).map_or(0.0, |limits| limits.cooldown);
                        if cooldown > 0.0 && !crate::figures::closes_only(event.kind) {
                            let (from, who) = (event.time, String::new());
                            let until =
                                Some(from + Time::from_secs(cooldown)).filter(|it| *it <= end);
                            row.spans.push(Span {
                                from,
                                until,
                                mark: Mark::Cooldown,
                                who,
                                lane: 0,
                            });
                        }
                    } else if let Some(cue) = &event.cue {
                        let row = rows.entry((2, 0, 0)).or_insert_with(|| Row::new("cues", ""));
                        let (time, text) = (event.time, cue.clone());
                        row.ticks.push(Tick { time, mark: Mark::Event, text, entry: index });
                    }
                }
                Happening::Said { time, text, .. } => {
                    let row = rows.entry((2, 1, 0)).or_insert_with(|| Row::new("said", ""));
                    let text = format!("“{text}”");
                    row.ticks.push(Tick { time: *time, mark: Mark::Said, text, entry: index });
                }
                Happening::Refused { time, by, .. } | Happening::Problem { time, by, .. } => {
                    let row =
                        rows.entry((2, 2, 0)).or_insert_with(|| Row::new("refused, or wrong", ""));
                    let text = problem(scene, *by, entry);
                    row.ticks.push(Tick { time: *time, mark: Mark::Refused, text, entry: index });
                }
                _ => {}
            }
        }
        for ((on, detector, who), from) in open {
            if let Some(row) = rows.get_mut(&(0, on.index() as u32, order(detector))) {
                let who = scene.name(who).into();
                row.spans.push(Span { from, until: None, mark: Mark::Occupied, who, lane: 0 });
            }
        }
        for (of, effect, from, until) in effects {
            let key = (1, of.index() as u32, 0);
            let row = rows.entry(key).or_insert_with(|| Row::new(scene.name(*of), "effects"));
            let until = Some(*until).filter(|until| *until < end);
            let who = effect.clone();
            row.spans.push(Span { from: *from, until, mark: Mark::Effect, who, lane: 0 });
        }
        let mut rows: Vec<Row> = rows.into_values().collect();
        rows.iter_mut().for_each(Row::arrange);
        Self { until: end, rows }
    }
}

fn order(detector: Detector) -> u8 {
    Detector::ALL.iter().position(|it| *it == detector).unwrap_or_default() as u8
}

fn problem(scene: &Scene, by: By, entry: &Entry) -> String {
    let what = match &entry.what {
        Happening::Refused { action, why, .. } => {
            format!("{}: {}", action.word(), why.words(scene))
        }
        Happening::Problem { problem, .. } => problem.describe(scene),
        _ => String::new(),
    };
    format!("{}: {what}", by.describe(scene))
}

/// Notes an event of a detector: as the beginning or end of a span, and as a mark.
fn note(
    scene: &Scene,
    row: &mut Row,
    open: &mut BTreeMap<(EntityId, Detector, EntityId), Time>,
    (event, entry): (&Event, usize),
) {
    let (Some(on), Some(detector)) = (event.on, event.kind.detector()) else { return };
    let mut close = |who: EntityId| {
        if let Some(from) = open.remove(&(on, detector, who)) {
            let (until, who) = (Some(event.time), scene.name(who).into());
            row.spans.push(Span { from, until, mark: Mark::Occupied, who, lane: 0 });
        }
    };
    if event.kind == EventKind::Retarget {
        if let Some(was) = event.was {
            close(was);
        }
    } else if event.kind.is_closing()
        && let Some(who) = event.who
    {
        close(who);
    }
    if event.kind.is_opening()
        && let Some(who) = event.who
    {
        open.insert((on, detector, who), event.time);
    }
    if !crate::figures::closes_only(event.kind) {
        let who = event.who.map_or("", |who| scene.name(who));
        let text = format!("{} {who}", event.kind).trim_end().to_owned();
        let mark = if event.kind == EventKind::Refused { Mark::Refused } else { Mark::Event };
        row.ticks.push(Tick { time: event.time, mark, text, entry });
    }
}

#[cfg(test)]
mod tests {
    use std::collections::BTreeMap;

    use hazuro::geometry::Shape;
    use hazuro::scene::{Admit, Body, Entity, Limits, Seeker, Zone};
    use hazuro::{Input, Play};

    use super::*;

    fn ball() -> Body {
        Body::new(Shape::Sphere { radius: 0.3 })
    }

    /// Two balls about a cock that turns to the nearest, and a pad that cools down.
    fn recording() -> (std::sync::Arc<Scene>, Recording) {
        let cube = Shape::Box { size: [2.0; 3] };
        let limits = Limits { cooldown: 1.5, ..Limits::default() };
        let scene = Scene::builder("Yard")
            .entity(Entity::new("one").at([2.0, 0.0, 0.0]).body(ball()).tags(["sack"]))
            .entity(Entity::new("two").at([9.0, 0.0, 0.0]).body(ball()).tags(["sack"]))
            .entity(
                Entity::new("cock")
                    .seeker(Seeker { range: 20.0, margin: 0.1, ..Seeker::default() })
                    .admit(Admit::tags(["sack"])),
            )
            .entity(Entity::new("pad").at([0.0, 0.0, -6.0]).zone(Zone::new(cube)).limits(limits));
        let scene = std::sync::Arc::new(scene.build().unwrap());
        let two = scene.find("two").unwrap();
        let mut play = Play::new(scene.clone());
        let drive = |to: [f64; 3], from: f64, until: f64| {
            let input = Input::Drive { who: two, to: to.into(), until: Time::from_secs(until) };
            (Time::from_secs(from), input)
        };
        for (at, input) in [drive([1.0, 0.0, 0.0], 0.5, 1.0), drive([0.0, 0.0, -6.0], 2.0, 3.0)] {
            play.schedule(at, input).unwrap();
        }
        (scene, Recording::of(&mut play, Time::from_secs(4.0)))
    }

    #[test]
    fn one_target_ends_where_the_next_begins() {
        let (scene, recording) = recording();
        let timeline = Timeline::of(&scene, &recording);
        let row = timeline.rows.iter().find(|row| row.name == "cock").unwrap();
        let spans: Vec<(&str, Option<Time>)> =
            row.spans.iter().map(|span| (span.who.as_str(), span.until)).collect();
        assert_eq!(spans[0].0, "one");
        assert_eq!(spans[1].0, "two");
        assert_eq!(spans[0].1, Some(row.spans[1].from));
        assert_eq!(row.lanes, 1, "never two at once");
        assert_eq!(spans.last().unwrap().1, None, "the last one lasts");
    }

    #[test]
    fn a_cooldown_begins_with_the_event_and_lies_under_it() {
        let (scene, recording) = recording();
        let timeline = Timeline::of(&scene, &recording);
        let row = timeline.rows.iter().find(|row| row.name == "pad").unwrap();
        let [inside, cooldown] = &row.spans[..] else { panic!("{row:?}") };
        assert_eq!((inside.mark, cooldown.mark), (Mark::Occupied, Mark::Cooldown));
        assert_eq!(cooldown.from, inside.from);
        assert_eq!(cooldown.until, None, "it is not over at the end");
        assert_eq!((row.ticks.len(), row.ticks[0].text.as_str()), (1, "enter two"));
        assert_eq!(row.ticks[0].time, inside.from);
    }

    #[test]
    fn rows_stand_in_the_order_of_the_scene() {
        let (scene, recording) = recording();
        let timeline = Timeline::of(&scene, &recording);
        let places: BTreeMap<&str, usize> =
            scene.ids().map(|id| (scene.name(id), id.index())).collect();
        let rows: Vec<usize> = timeline.rows.iter().map(|row| places[row.name.as_str()]).collect();
        assert!(rows.is_sorted() && !rows.is_empty(), "{rows:?}");
    }
}
