//! The facts of the scene that stand behind a gate: who used it up, what is counted on top, what was
//! turned, scaled or replaced.

use hazuro::geometry::Pose;
use hazuro::glam::DVec3;
use hazuro::scene::{Action, Clause, Detector, Kind};
use hazuro::why::{Chain, Evidence, Gate, Verdict};
use hazuro::{EntityId, Entry, Happening, Time};

use crate::words::round;

use super::inquiry::{Inquiry, event_at};

impl Inquiry<'_> {
    /// What stands behind the gate that stopped somebody: who switched it off, who used it up, whose
    /// place is counted on top of its own.
    pub(super) fn facts_behind(&self, verdict: &Verdict, until: Time) -> String {
        let (Some(on), who) = verdict.chain.pair() else { return String::new() };
        let fact = match (&verdict.evidence, verdict.gate) {
            (Evidence::OffBy(off), _) => Some(self.switched_off(*off, until)),
            (Evidence::Refused(clause), _) => who.and_then(|who| {
                self.untagged(who, until).or_else(|| self.replaced((on, who), *clause))
            }),
            (Evidence::Instead(rival), _) => {
                who.and_then(|who| self.margin((on, who), *rival, verdict.time))
            }
            (Evidence::Pointed { .. }, _) => who.and_then(|who| self.seen_through(who)),
            (_, Gate::Once | Gate::Cooldown) => self.used_by(on, verdict),
            (_, Gate::InAngle) => self.aimed(verdict),
            (_, Gate::InShape | Gate::Touches | Gate::InRange) => {
                let others = || {
                    let facts =
                        [self.placed_in(on), self.scaled(on), self.without_shape(on, verdict.gate)];
                    facts.into_iter().flatten().collect()
                };
                // What is proved to be the reason says more.
                let proved = self.turned(verdict).or_else(|| self.aimed(verdict));
                let facts: Vec<String> = proved.map_or_else(others, |it| vec![it]);
                (!facts.is_empty()).then(|| facts.join("; "))
            }
            _ => None,
        };
        fact.map_or(String::new(), |fact| format!("; {fact}"))
    }

    /// Who set a detector off before.
    fn used_by(&self, on: EntityId, verdict: &Verdict) -> Option<String> {
        let Chain::Detector { detector, .. } = verdict.chain else { return None };
        let used = self.last(verdict.time, |event| {
            event.on == Some(on) && Some(event.kind) == detector.opens()
        })?;
        let event = used.event()?;
        let what = if verdict.gate == Gate::Once { "used it up" } else { "began the cooldown" };
        Some(format!("{} {what}", event_at(self.scene(), event)))
    }

    /// That an action has taken a tag away.
    fn untagged(&self, who: EntityId, until: Time) -> Option<String> {
        let taken = |entry: &&Entry| {
            let untag = matches!(entry.action(), Some(Action::Untag { what, .. }) if *what == who);
            untag && matches!(entry.what, Happening::Did { .. })
        };
        self.until(until).iter().rfind(taken).map(|entry| self.because.sentence(entry))
    }

    /// By how much a target is better than its rival, and by how much it must be.
    fn margin(&self, (on, who): (EntityId, EntityId), rival: EntityId, at: Time) -> Option<String> {
        let seeker = self.scene().seeker_of(on)?;
        let (margin, name) = (seeker.margin, self.name(rival));
        let must =
            format!("to replace `{name}` it must be better by the `margin`, which is {margin}");
        if seeker.score.is_some() {
            return Some(must);
        }
        let mut play = self.play();
        play.advance(at);
        let place = |entity| play.pose(entity).ok().map(|pose| pose.position);
        let (here, there, other) = (place(on)?, place(who)?, place(rival)?);
        let (off, rivals) = (here.distance(there), here.distance(other));
        Some(format!("it was {off:.3} m away and `{name}` {rivals:.3} m; {must}"))
    }

    /// That a parent's place is counted on top of its own.
    fn placed_in(&self, on: EntityId) -> Option<String> {
        let parent = self.scene().parent(on)?;
        let own = shown(self.scene().entity(on).pose().position);
        let world = shown(self.scene().pose(on).position);
        let place = self.place_of(on, "at");
        (own != world).then(|| {
            format!(
                "`{}` is at {world} in the world: its place {own}{place} is counted from its parent \
                 `{}`",
                self.name(on),
                self.name(parent)
            )
        })
    }

    /// That it would have met whom it looks for, if it were not turned: by itself, or by an ancestor.
    fn turned(&self, verdict: &Verdict) -> Option<String> {
        let (Evidence::Gap { time, .. }, Chain::Detector { on, detector, who }) =
            (&verdict.evidence, verdict.chain)
        else {
            return None;
        };
        let scene = self.scene();
        let mut play = self.play();
        play.advance(*time);
        let (here, there) = (play.pose(on).ok()?, play.pose(who).ok()?);
        let plain = Pose::at(here.position);
        if !scene.would_meet((on, detector, &plain), (who, &there)) {
            return None;
        }
        Some(format!(
            "`{}` is turned {}; as it was drawn up it would have met {}",
            self.name(on),
            self.turned_by(on)?,
            self.name(who)
        ))
    }

    /// By how much something is turned, and by which key: its own or that of its nearest ancestor
    /// with one. None if it is not.
    fn turned_by(&self, on: EntityId) -> Option<String> {
        let scene = self.scene();
        let turns = |it: &EntityId| scene.entity(*it).pose().angle_to(&Pose::IDENTITY) > 1e-6;
        let by = scene.lineage(on).find(turns)?;
        let degrees = round(scene.entity(by).pose().angle_to(&Pose::IDENTITY).to_degrees());
        let place = self.place_of(by, "turn");
        let whose =
            if by == on { String::new() } else { format!(" by its parent `{}`", self.name(by)) };
        Some(format!("by {degrees} degrees{whose}{place}"))
    }

    /// Where a watcher that is turned looks, or the ray of a probe that is: both are counted in its
    /// own axes.
    fn aimed(&self, verdict: &Verdict) -> Option<String> {
        let Chain::Detector { on, detector, .. } = verdict.chain else { return None };
        let by = self.turned_by(on)?;
        let mut play = self.play();
        play.advance(verdict.time);
        let name = self.name(on);
        if detector == Detector::Sight {
            let eye = play.eye(on).ok()??;
            let along = shown(eye.rotation * DVec3::NEG_Z);
            return Some(format!("`{name}` looks along {along} in the world: it is turned {by}"));
        }
        let probe = self.scene().probe_of(on).filter(|_| detector == Detector::Probe)?;
        let pose = play.pose(on).ok()?;
        let [from, to] = [probe.from, probe.to].map(|end| shown(pose.point(end.into())));
        Some(format!(
            "its ray goes from {from} to {to} in the world: `{name}` is turned {by}, and `from` and \
             `to` with it"
        ))
    }

    /// That it is smaller than it was drawn up.
    fn scaled(&self, on: EntityId) -> Option<String> {
        let entity = self.scene().entity(on);
        let own = entity.own_scale().map(|factor| (factor, self.place_of(on, "scale")));
        let (factor, by) = own.or_else(|| {
            let by = |kind: &Kind| format!(" by its kind `{}`", kind.name());
            self.scene().kinds_of(on).find_map(|kind| Some((kind.own_scale()?, by(kind))))
        })?;
        (factor < 1.0).then(|| format!("`{}` is scaled by {factor}{by}", self.name(on)))
    }

    /// That its own rule, or the layers of whom it looks for, replace those of the kind.
    fn replaced(&self, (on, who): (EntityId, EntityId), clause: Clause) -> Option<String> {
        let scene = self.scene();
        let of_kind = |what: EntityId, kind: &Kind, key: &str, verb: &str| {
            let (name, place, kind) = (self.name(what), self.place_of(what, key), kind.name());
            format!("the `{key}` of `{name}`{place} {verb} of its kind `{kind}`")
        };
        if clause == Clause::Layers && !scene.entity(who).own_layers().is_empty() {
            let kind = scene.kinds_of(who).find(|kind| !kind.own_layers().is_empty());
            if let Some(kind) = kind {
                return Some(of_kind(who, kind, "layers", "replace those"));
            }
        }
        let own = scene.entity(on).own_admit()?;
        let mut kinds = scene.kinds_of(on);
        let (kind, given) = kinds.find_map(|kind| Some((kind, kind.own_admit()?)))?;
        (own != given).then(|| of_kind(on, kind, "admit", "replaces that"))
    }

    /// That a reach counts from an origin, since there is no shape; the shape may be on a child.
    fn without_shape(&self, on: EntityId, gate: Gate) -> Option<String> {
        let scene = self.scene();
        let has_shape =
            |it: &EntityId| scene.is_solid(*it) || scene.has_zone(*it) || scene.has_body(*it);
        if gate != Gate::InRange || scene.prompt_of(on).is_none() || has_shape(&on) {
            return None;
        }
        let child = scene.family(on).find(|it| has_shape(it) && *it != on);
        let child =
            child.map_or(String::new(), |it| format!(", not from its child `{}`", self.name(it)));
        Some(format!(
            "`{}` has no shape, so its reach counts from its origin{child}",
            self.name(on)
        ))
    }

    /// Through which camera a player points.
    fn seen_through(&self, who: EntityId) -> Option<String> {
        let camera = self.scene().camera_of(who)?;
        Some(format!("{} points through the camera `{}`", self.name(who), self.name(camera)))
    }

    /// The line of a key of an entity, in brackets; nothing if it has none.
    fn place_of(&self, entity: EntityId, key: &str) -> String {
        let place = self.because.entity_place(entity, key);
        place.map_or(String::new(), |place| format!(" ({place})"))
    }
}

/// A place or direction, as short as it can be told.
fn shown(place: DVec3) -> String {
    let numbers = place.to_array().map(|along| round((along * 1e4).round() / 1e4) + 0.0);
    format!("{numbers:?}").replace(".0,", ",").replace(".0]", "]")
}
