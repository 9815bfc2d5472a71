//! Running a playtest and holding what happened against what was expected.

use hazuro::scene::EventKind;
use hazuro::why::{Chain, Notebook, Unwitnessed, Witness};
use hazuro::{Entry, Event, Scene, Time};

use crate::playtest::{Expectation, Pattern, Playtest, Times, What};
use crate::playtest_file::ValueKeys;

/// What a playtest found.
///
/// ```no_run
/// use hazuro_files::{load, run_playtest};
/// let loaded = load("demo/tidemill/gate.playtest.toml".as_ref()).unwrap();
/// let playtest = loaded.playtest.unwrap();
/// let report = run_playtest(&playtest, None);
/// assert!(report.passed());
/// ```
#[derive(Debug)]
pub struct Report {
    /// Everything that happened, in order.
    pub entries: Vec<Entry>,
    /// The outcome of each expectation, in the order of the file.
    pub outcomes: Vec<Outcome>,
    /// Who on foot did not get where he was to go, where, when and why, in words.
    pub halts: Vec<String>,
}

/// Whether one expectation was met.
#[derive(Clone, Debug)]
pub struct Outcome {
    /// Whether it was met.
    pub met: bool,
    /// What was expected, in words.
    pub expected: String,
    /// What was seen, in words; for an expectation that was met, what met it.
    pub seen: String,
    /// The line of the file it stands on, from 1.
    pub line: usize,
}

impl Report {
    /// Whether every expectation was met.
    pub fn passed(&self) -> bool {
        self.outcomes.iter().all(|outcome| outcome.met)
    }
}

/// Plays a playtest to its end, at its scene's rate or another, and judges it.
pub fn run_playtest(playtest: &Playtest, rate: Option<u32>) -> Report {
    let (entries, values) = play_through(playtest, rate, &mut Unwitnessed);
    let mut judge = Judge { scene: &playtest.scene, entries: &entries, notebook: None };
    let mut outcomes = judge.outcomes(playtest, &values);
    if outcomes.iter().any(|outcome| !outcome.met) {
        // Played again with somebody who listens to the gates, to say what stopped it.
        let mut notebook = Notebook::all();
        play_through(playtest, rate, &mut notebook);
        judge.notebook = Some(&notebook);
        outcomes = judge.outcomes(playtest, &values);
    }
    let halts = entries.iter().filter_map(|entry| halt(&playtest.scene, entry)).collect();
    Report { entries, outcomes, halts }
}

/// That somebody gets no further, and why, in words.
fn halt(scene: &Scene, entry: &Entry) -> Option<String> {
    let Entry::Halted { time, who, by, goal } = entry else { return None };
    let place = goal.to_array().map(|along| (along * 100.0).round() / 100.0 + 0.0);
    let by = match by {
        Some(by) => format!("{} is in the way", scene.name(*by)),
        None => "there is no way".into(),
    };
    Some(format!("{} cannot get to {place:?} at {time} s: {by}", scene.name(*who)))
}

/// What an expression gave, or why it gave nothing.
type Value = Result<rhai::Dynamic, String>;

/// Plays to the end: everything that happened, and the value of each expectation that is about
/// one.
fn play_through<W: Witness>(
    playtest: &Playtest,
    rate: Option<u32>,
    witness: &mut W,
) -> (Vec<Entry>, Vec<Option<Value>>) {
    let mut play = playtest.play();
    if let Some(rate) = rate {
        play.set_rate(rate);
    }
    let mut moments: Vec<(Time, usize)> = Vec::new();
    for (index, expectation) in playtest.expectations.iter().enumerate() {
        if let What::Value { at, .. } = expectation.what {
            moments.push((at, index));
        }
    }
    moments.sort_unstable();
    let mut entries = Vec::new();
    let mut values = vec![None; playtest.expectations.len()];
    for (time, index) in moments {
        entries.extend_from_slice(play.advance_witnessed(time, witness));
        if let What::Value { program, who, .. } = &playtest.expectations[index].what {
            values[index] = Some(program.value(&play.facts_about(*who)));
        }
    }
    entries.extend_from_slice(play.advance_witnessed(playtest.seconds, witness));
    (entries, values)
}

struct Judge<'a> {
    scene: &'a Scene,
    entries: &'a [Entry],
    notebook: Option<&'a Notebook>,
}

impl Judge<'_> {
    fn outcomes(&self, playtest: &Playtest, values: &[Option<Value>]) -> Vec<Outcome> {
        let judged = playtest.expectations.iter().zip(values).map(|(expectation, value)| {
            let (met, expected, seen) = self.judge(expectation, value.as_ref());
            let line = playtest.source.line_and_column(expectation.span.start).0;
            Outcome { met, expected, seen, line }
        });
        judged.collect()
    }

    fn judge(&self, expectation: &Expectation, value: Option<&Value>) -> (bool, String, String) {
        match &expectation.what {
            What::Event { pattern, times } => self.event(pattern, *times),
            What::Value { text, who, is, at, .. } => {
                let about = who.map_or(String::new(), |who| format!("{}: ", self.scene.name(who)));
                let expected = format!("{about}{text} is {} at {} s", is.words(), at.secs());
                match value {
                    Some(Ok(value)) => {
                        (is.equals(value), expected, format!("it is {}", shown(value)))
                    }
                    Some(Err(why)) => (false, expected, why.clone()),
                    None => (false, expected, "it was never asked".into()),
                }
            }
        }
    }

    fn event(&self, pattern: &Pattern, times: Times) -> (bool, String, String) {
        let events = || self.entries.iter().filter_map(Entry::event);
        let matching: Vec<&Event> = events().filter(|event| pattern.matches(event)).collect();
        let met = match times {
            Times::AtLeastOnce => !matching.is_empty(),
            Times::Exactly(times) => matching.len() == times,
        };
        let expected = pattern.words(self.scene, times);
        if met && matching.is_empty() {
            return (met, expected, String::new());
        }
        let mut seen = list(self.scene, &matching);
        if !met && matching.is_empty() {
            // What came nearest: the same event without the limits on who and when.
            let loose = Pattern {
                who: None,
                cause: None,
                need: None,
                of: None,
                after: None,
                by: None,
                ..pattern.clone()
            };
            let others: Vec<&Event> = events().filter(|event| loose.matches(event)).collect();
            if !others.is_empty() {
                seen = format!("{seen}; instead {}", list(self.scene, &others));
            }
            if let Some(refused) = self.refused(pattern) {
                seen = format!("{seen}\n{refused}");
            }
            if let Some(reason) = self.stopped(pattern) {
                seen = format!("{seen}\n{reason}");
            }
        }
        (met, expected, seen)
    }

    /// What was lacking when somebody tried to use what should have been used.
    fn refused(&self, pattern: &Pattern) -> Option<String> {
        let event = match pattern.event {
            EventKind::Accept | EventKind::Interact | EventKind::Hold => EventKind::Refused,
            _ => return None,
        };
        let refused = Pattern { event, ..pattern.clone() };
        let mut events = self.entries.iter().filter_map(Entry::event);
        let found = events.find(|event| refused.matches(event))?;
        let who = found.who.map_or("somebody", |who| self.scene.name(who));
        let need = found.need.as_deref().unwrap_or_default();
        Some(format!("{who} was refused at {} s for want of {need}", found.time))
    }

    /// The gate at which a subject that should have been detected was stopped.
    fn stopped(&self, pattern: &Pattern) -> Option<String> {
        let on = pattern.on?;
        let verdict = self.notebook?.records().filter_map(hazuro::why::Record::stopped).find(|verdict| {
                matches!(verdict.chain, Chain::Detector { on: its, detector, who }
                    if its == on && pattern.event.detector() == Some(detector) && pattern.who.is_none_or(|wanted| wanted == who))
        })?;
        let Chain::Detector { who, .. } = verdict.chain else {
            return None;
        };
        let who = self.scene.name(who);
        let evidence = verdict.reason(self.scene);
        let evidence = if evidence.is_empty() { evidence } else { format!(": {evidence}") };
        Some(format!("{who} was stopped at \"{}\"{evidence}", verdict.gate.words()))
    }
}

/// A value as people write it: numbers to nine places.
fn shown(value: &rhai::Dynamic) -> String {
    match value.as_float() {
        Ok(number) => rhai::Dynamic::from((number * 1e9).round() / 1e9).to_string(),
        Err(_) => value.to_string(),
    }
}

/// Events as a short list of times.
fn list(scene: &Scene, events: &[&Event]) -> String {
    const SHOWN: usize = 4;
    if events.is_empty() {
        return "never".into();
    }
    let each = events.iter().take(SHOWN).map(|event| {
        let who = event.who.map_or(String::new(), |who| format!(" ({})", scene.name(who)));
        format!("at {} s{who}", event.time)
    });
    let more = if events.len() > SHOWN { " ..." } else { "" };
    let times = if events.len() == 1 { String::new() } else { format!("{} times: ", events.len()) };
    format!("{times}{}{more}", each.collect::<Vec<_>>().join(", "))
}

impl Pattern {
    fn matches(&self, event: &Event) -> bool {
        fn fits<T: PartialEq>(wanted: Option<&T>, given: Option<&T>) -> bool {
            wanted.is_none() || wanted == given
        }
        event.kind == self.event
            && fits(self.on.as_ref(), event.on.as_ref())
            && fits(self.cue.as_ref(), event.cue.as_ref())
            && fits(self.who.as_ref(), event.who.as_ref())
            && fits(self.cause.as_ref(), event.cause.as_ref())
            && fits(self.need.as_ref(), event.need.as_ref())
            && fits(self.of.as_ref(), event.reading.map(|reading| reading.stat).as_ref())
            && self.after.is_none_or(|after| event.time >= after)
            && self.by.is_none_or(|by| event.time <= by)
    }

    fn words(&self, scene: &Scene, times: Times) -> String {
        let mut words = self.event.word().to_owned();
        let on = self.on.map(|on| scene.name(on)).or(self.cue.as_deref());
        words.extend(on.map(|on| format!(" {on}")));
        words.extend(self.who.map(|who| format!(": {}", scene.name(who))));
        words.extend(self.cause.map(|cause| format!(" ({cause})")));
        words.extend(self.of.map(|of| format!(", {}", scene.stat_name(of))));
        words.extend(self.need.as_ref().map(|need| format!(", for want of {need}")));
        words.extend(self.after.map(|after| format!(", not before {} s", after.secs())));
        words.extend(self.by.map(|by| format!(", by {} s", by.secs())));
        let often = match times {
            Times::AtLeastOnce => String::new(),
            Times::Exactly(0) => ", never".into(),
            Times::Exactly(1) => ", once".into(),
            Times::Exactly(times) => format!(", {times} times"),
        };
        words + often.as_str()
    }
}

impl ValueKeys {
    fn equals(&self, value: &rhai::Dynamic) -> bool {
        match self {
            Self::Flag(flag) => value.as_bool() == Ok(*flag),
            Self::Text(text) => value.clone().into_string().is_ok_and(|value| value == *text),
            Self::Whole(number) => {
                value.as_int() == Ok(*number) || value.as_float() == Ok(*number as f64)
            }
            Self::Number(number) => {
                let value = value.as_float().or_else(|_| value.as_int().map(|whole| whole as f64));
                value.is_ok_and(|value| (value - number).abs() <= 1e-6)
            }
        }
    }

    fn words(&self) -> String {
        match self {
            Self::Flag(flag) => flag.to_string(),
            Self::Whole(number) => number.to_string(),
            Self::Number(number) => number.to_string(),
            Self::Text(text) => format!("\"{text}\""),
        }
    }
}
