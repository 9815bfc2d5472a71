//! A verdict in words: the reason, how much was missing, and the cure.

use glam::DVec3;

use crate::Time;
use crate::describe::{Clause, Detector, EntityId};
use crate::model::Scene;

use super::{Chain, Evidence, Gate, Missing, Verdict};

impl Verdict {
    /// How much was missing, where that can be told as a number. Nothing for a gate that passed.
    pub fn missing(&self) -> Option<Missing> {
        if self.passed {
            return None;
        }
        Some(match self.evidence {
            Evidence::Gap { metres, .. } if metres > 0.0 => Missing::Metres(metres),
            Evidence::Range { got, most } => Missing::Metres(got - most),
            Evidence::Angle { got, most } => Missing::Radians(got - most),
            Evidence::Speed { got, need } => Missing::Speed(need - got),
            Evidence::Share { got, need } => Missing::Share(need - got),
            Evidence::Span { got, need } => Missing::Seconds(need - got),
            Evidence::ReadyAt(ready) => Missing::Seconds((ready - self.time).secs()),
            Evidence::Lacks { short: Some((got, need)), .. } => Missing::Amount(need - got),
            _ => return None,
        })
    }

    /// When it came nearest to passing.
    pub fn nearest(&self) -> Time {
        match self.evidence {
            Evidence::Gap { time, .. } => time,
            _ => self.time,
        }
    }

    /// What the gate saw, in words, with the scene's names.
    pub fn reason(&self, scene: &Scene) -> String {
        let (on, who) = self.chain.pair();
        let rule = on.and_then(|on| scene.admit_of(on));
        let asked =
            |list: usize| rule.map_or(String::new(), |rule| rule.admitted()[list].join(", "));
        match &self.evidence {
            Evidence::None => String::new(),
            Evidence::OffBy(entity) => format!("`{}` is off", scene.name(*entity)),
            Evidence::Refused(Clause::Layers) => {
                let layers = rule.map_or(String::new(), |rule| rule.layer_lists()[0].join(", "));
                format!("it is in none of the layers asked for: {layers}")
            }
            Evidence::Refused(Clause::Tags) => {
                format!("it has none of the tags asked for: {}", asked(0))
            }
            Evidence::Refused(Clause::Kinds) => {
                format!("it is of none of the kinds asked for: {}", asked(1))
            }
            Evidence::Refused(Clause::Names) => format!("it is none of those named: {}", asked(2)),
            Evidence::Refused(Clause::Players) => "it is no player".into(),
            Evidence::Refused(Clause::Not) => "it is refused by `not`".into(),
            Evidence::Gap { metres, time, way } if *metres > 0.0 => format!(
                "came within {metres:.3} m at {:.3} s; it lay {}",
                time.secs(),
                direction(*way)
            ),
            Evidence::Gap { .. } => "it was inside".into(),
            Evidence::Range { got, most } if got.is_finite() => {
                format!("it was {got:.3} m away; at most {most} m")
            }
            Evidence::Range { most, .. } => format!("there was nothing within {most} m"),
            Evidence::Angle { got, most } => format!(
                "it was {:.1} degrees off; at most {:.1}",
                got.to_degrees(),
                most.to_degrees()
            ),
            Evidence::Speed { got, need } => format!("{got:.3} m/s; at least {need} m/s"),
            Evidence::Share { got, need } => {
                let what =
                    if self.gate == Gate::Noticed { "sure of it by" } else { "points in view:" };
                format!("{what} {:.0} %; at least {:.0} %", got * 100.0, need * 100.0)
            }
            Evidence::Span { got, need } => format!("for {got:.3} s; at least {need} s"),
            Evidence::HiddenBy(entity) => format!("`{}` hides it", scene.name(*entity)),
            Evidence::Pointed { at: [x, y], is } => {
                let is = match is {
                    Some([x, y]) => format!("its middle is at [{x:.0}, {y:.0}]"),
                    None => "it is behind the camera".into(),
                };
                format!("the pointer was at [{x:.0}, {y:.0}], where nothing is, and {is}")
            }
            Evidence::BelongsTo { owner, since } => {
                format!("it belongs to `{}` since {:.3} s", scene.name(*owner), since.secs())
            }
            Evidence::Instead(entity) => format!("`{}` was chosen instead", scene.name(*entity)),
            Evidence::Occupants(others) => occupants(scene, others),
            Evidence::ReadyAt(time) => format!("ready at {:.3} s", time.secs()),
            Evidence::Lacks { need, short } => {
                let who = who.map_or("it", |who| scene.name(who));
                let short = short.map_or(String::new(), |(got, need)| {
                    format!(": it is {got}, and must be {need}")
                });
                format!("{who} lacks {need}{short}")
            }
            Evidence::Condition { text, saw, failed } => {
                let saw: Vec<String> =
                    saw.iter().map(|(name, value)| format!("{name} was {value}")).collect();
                let saw =
                    if saw.is_empty() { String::new() } else { format!(": {}", saw.join(", ")) };
                if failed.is_empty() || failed.iter().any(|part| part == text) {
                    return format!("`{text}`{saw}");
                }
                format!("`{}` did not hold{saw}; all of it is `{text}`", failed.join("`, `"))
            }
        }
    }

    /// What would let it pass, in words; nothing if it passed, or if nothing can be said.
    pub fn cure(&self, scene: &Scene) -> Option<String> {
        if self.passed {
            return None;
        }
        let (on, who) = self.chain.pair();
        let on = on.map_or("the detector", |on| scene.name(on));
        let who_name = who.map_or("the subject", |who| scene.name(who));
        Some(match (self.gate, &self.evidence) {
            (_, Evidence::OffBy(off)) => {
                let off = scene.name(*off);
                format!("switch `{off}` on before: {{ enable = \"{off}\" }}, or start it on")
            }
            (_, Evidence::Refused(clause)) => self.readmit(scene, *clause),
            (_, Evidence::BelongsTo { owner, .. }) => format!(
                "wait until `{on}` belongs to nobody, take it from `{}` with {{ disown = \"{on}\" }}, \
                 or let both be in one of its teams",
                scene.name(*owner)
            ),
            (Gate::Apart, _) => format!(
                "let another entity detect: `{on}` and `{who_name}` belong together, one carries \
                 the other"
            ),
            (_, Evidence::Gap { metres, way, .. }) if *metres > 0.0 => format!(
                "bring `{who_name}` {metres:.3} m {}, or make the shape of `{on}` so much larger \
                 on that side",
                direction(*way)
            ),
            (Gate::InRange | Gate::OnGround, Evidence::Range { got, most }) if got.is_finite() => {
                format!(
                    "come {:.3} m nearer, or raise the range of `{on}` from {most} to {:.2}",
                    got - most,
                    (got * 100.0).ceil() / 100.0
                )
            }
            (_, Evidence::Angle { got, most }) => format!(
                "turn {:.1} degrees towards it, or widen the angle of `{on}`",
                (got - most).to_degrees()
            ),
            (_, Evidence::Speed { got, need }) => {
                format!("be {:.3} m/s faster, or lower `at_least` of `{on}`", need - got)
            }
            (Gate::Noticed, _) => {
                format!("stay in view longer, or lower `notice` of `{on}`")
            }
            (_, Evidence::Share { .. }) => {
                format!("let more of `{who_name}` be seen, or lower `fraction` of `{on}`")
            }
            (_, Evidence::Span { got, need }) => format!("hold it {:.3} s longer", need - got),
            (_, Evidence::HiddenBy(by)) => {
                let by = scene.name(*by);
                format!("move `{by}` out of the way, or put it in a layer that does not hide")
            }
            (_, Evidence::Pointed { is: Some([x, y]), .. }) => {
                format!("point at `{on}` by its name, or at [{x:.0}, {y:.0}]")
            }
            (_, Evidence::Instead(rival)) if self.chooses() => format!(
                "bring `{who_name}` nearer than `{}` by more than the `margin` of `{on}`, or lower it",
                scene.name(*rival)
            ),
            (_, Evidence::Instead(rival)) => format!(
                "be nearer than `{}`, or let `{on}` and it not compete: another key, a priority",
                scene.name(*rival)
            ),
            (Gate::Edge, _) => format!(
                "`{who_name}` was inside already, or only passed for an instant: it fires when one \
                 comes in or leaves"
            ),
            (Gate::Subject, _) => {
                format!("let `who` beside its event mean `{who_name}` too, or take that away")
            }
            (Gate::OnlyOne, _) => {
                "take away `first` or `last`, or let the others leave before".into()
            }
            (Gate::Once, _) => {
                "it is used up: take `once` away, raise `limit`, or let a reaction reset it".into()
            }
            (Gate::Cooldown, Evidence::ReadyAt(ready)) => format!(
                "wait {:.3} s longer, or shorten the `cooldown`",
                (*ready - self.time).secs()
            ),
            (Gate::Idle, _) => "let it end before, or say what happens then: `again`".into(),
            (_, Evidence::Lacks { need, .. }) => {
                format!("give `{who_name}` {need} before, or ask for less in `needs`")
            }
            (Gate::Condition, _) => {
                "see to it that the condition holds before the event, or change it".into()
            }
            (Gate::OnScreen, _) => {
                format!("turn `{who_name}` or its camera towards `{on}` before: `face`")
            }
            _ => return None,
        })
    }

    /// Whether it is about the choice of a target.
    fn chooses(&self) -> bool {
        matches!(self.chain, Chain::Detector { detector: Detector::Seeker, .. })
    }

    /// How to be admitted after all.
    fn readmit(&self, scene: &Scene, clause: Clause) -> String {
        let (Some(on), Some(who)) = self.chain.pair() else { return String::new() };
        let rule = scene.admit_of(on);
        let (on, name) = (scene.name(on), scene.name(who));
        let first = |list: usize| {
            let list = rule.and_then(|rule| rule.admitted()[list].first().cloned());
            list.unwrap_or_default()
        };
        let has: Vec<&str> = scene.tags_of(who).collect();
        match clause {
            Clause::Tags if has.is_empty() => {
                format!("give `{name}` the tag {}: tags = [\"{0}\"]", first(0))
            }
            Clause::Tags => format!(
                "give `{name}` the tag {}, or let `{on}` admit one it has: {}",
                first(0),
                has.join(", ")
            ),
            Clause::Kinds => format!("add the kind of `{name}` to `admit.kinds` of `{on}`"),
            Clause::Names => format!("add `{name}` to `admit.names` of `{on}`"),
            Clause::Layers => {
                let layers: Vec<&str> = scene.layer_names(scene.layers_of(who)).collect();
                format!("let `{on}` admit a layer of `{name}`: {}", layers.join(", "))
            }
            Clause::Players => {
                format!("give `{name}` player = true, or let `{on}` admit not players only")
            }
            Clause::Not => format!("take from `not` of `{on}` what `{name}` meets"),
        }
    }
}

/// A direction of length 1 in words, along the axes that matter, as in `down (-Y)`.
fn direction(way: DVec3) -> String {
    let names =
        [("east (+X)", "west (-X)"), ("up (+Y)", "down (-Y)"), ("south (+Z)", "north (-Z)")];
    let mut parts: Vec<(f64, &str)> = way
        .to_array()
        .into_iter()
        .zip(names)
        .map(|(along, (plus, minus))| (along.abs(), if along > 0.0 { plus } else { minus }))
        .filter(|(much, _)| *much > 0.1)
        .collect();
    parts.sort_by(|one, other| other.0.total_cmp(&one.0));
    let words: Vec<&str> = parts.into_iter().map(|(_, word)| word).collect();
    if words.is_empty() { "here".into() } else { words.join(" and ") }
}

/// That these are inside.
fn occupants(scene: &Scene, others: &[EntityId]) -> String {
    const MOST: usize = 3;
    let names: Vec<String> =
        others.iter().take(MOST).map(|it| format!("`{}`", scene.name(*it))).collect();
    match (names.as_slice(), others.len().saturating_sub(MOST)) {
        ([], _) => "somebody else is inside".into(),
        ([one], _) => format!("{one} is inside"),
        ([first @ .., last], 0) => format!("{} and {last} are inside", first.join(", ")),
        (names, more) => format!("{} and {more} more are inside", names.join(", ")),
    }
}
