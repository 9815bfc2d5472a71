//! What happened, as rows along time: a row for each detector, with spans and marks.

use std::collections::BTreeMap;

use hazuro::scene::{Detector, EventKind, Scene};
use hazuro::{By, EntityId, Entry, Event, Time};

use crate::film::Film;
use crate::marks::Mark;

/// A timeline of a play.
///
/// ```
/// use hazuro::{Play, Scene, Time, geometry::Shape, scene::{Body, Entity, Zone}};
/// use hazuro_view::{Film, Timeline};
/// let cube = Shape::Box { size: [1.0; 3] };
/// let scene = Scene::builder("Yard")
///     .entity(Entity::new("ball").body(Body::new(cube.clone())))
///     .entity(Entity::new("slot").zone(Zone::new(cube)))
///     .build()?;
/// let mut play = Play::new(scene);
/// let film = Film::shoot(&mut play, Time::from_secs(1.0));
/// let timeline = Timeline::of(play.scene(), &film);
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
    /// Which entry of the film it is.
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
    pub fn of(scene: &Scene, film: &Film) -> Self {
        let mut rows: BTreeMap<(u8, u32, u8), Row> = BTreeMap::new();
        let mut open: BTreeMap<(EntityId, Detector, EntityId), Time> = BTreeMap::new();
        for (index, entry) in film.entries.iter().enumerate() {
            match entry {
                Entry::Event(event) => {
                    if let (Some(on), Some(detector)) = (event.on, event.kind.detector()) {
                        let key = (0, on.index() as u32, order(detector));
                        let row = rows
                            .entry(key)
                            .or_insert_with(|| Row::new(scene.name(on), detector.word()));
                        note(scene, row, &mut open, (event, index));
                        let cooldown = scene.limits_of(on).map_or(0.0, |limits| limits.cooldown);
                        if cooldown > 0.0 && !crate::still::closes_only(event.kind) {
                            let (from, who) = (event.time, String::new());
                            let until = Some(from + Time::from_secs(cooldown))
                                .filter(|it| *it <= film.until);
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
                Entry::Said { time, text, .. } => {
                    let row = rows.entry((2, 1, 0)).or_insert_with(|| Row::new("said", ""));
                    let text = format!("“{text}”");
                    row.ticks.push(Tick { time: *time, mark: Mark::Said, text, entry: index });
                }
                Entry::Refused { time, by, .. } | Entry::Problem { time, by, .. } => {
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
        for (of, effect, from, until) in &film.effects {
            let key = (1, of.index() as u32, 0);
            let row = rows.entry(key).or_insert_with(|| Row::new(scene.name(*of), "effects"));
            let until = Some(*until).filter(|until| *until < film.until);
            let who = effect.clone();
            row.spans.push(Span { from: *from, until, mark: Mark::Effect, who, lane: 0 });
        }
        let mut rows: Vec<Row> = rows.into_values().collect();
        rows.iter_mut().for_each(Row::arrange);
        Self { until: film.until, rows }
    }
}

fn order(detector: Detector) -> u8 {
    Detector::ALL.iter().position(|it| *it == detector).unwrap_or_default() as u8
}

fn problem(scene: &Scene, by: By, entry: &Entry) -> String {
    let what = match entry {
        Entry::Refused { action, why, .. } => format!("{}: {}", action.word(), why.words()),
        Entry::Problem { problem, .. } => problem.describe(scene),
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
    if !crate::still::closes_only(event.kind) {
        let who = event.who.map_or("", |who| scene.name(who));
        let text = format!("{} {who}", event.kind).trim_end().to_owned();
        let mark = if event.kind == EventKind::Refused { Mark::Refused } else { Mark::Event };
        row.ticks.push(Tick { time: event.time, mark, text, entry });
    }
}
