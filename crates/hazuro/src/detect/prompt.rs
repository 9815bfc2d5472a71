//! Prompts: what a player may use, and which of several rivals is offered.

use std::cell::Cell;

use glam::DVec3;
use smallvec::SmallVec;

use crate::Time;
use crate::describe::{
    Described, Detector, EntityId, Field, Layers, Listed, Prompt, Scope, TagId, range,
};
use crate::geometry::{Aabb, Convex, Pose, ROUNDING, gap};
use crate::model::{PlacedPart, Thing};
use crate::resolve::{Owner, Resolve, Resolver};
use crate::space::Space;
use crate::state::Cause;
use crate::why::{Chain, Check, Evidence, Gate, Unwitnessed, Witness, go_on, run};

use super::pair::{admitted, apart, condition, enabled, own, present};
use super::target::{Failures, Target, looks_at_target, senses};
use super::{Asked, Change, Detect, limits};

/// By how much more than its angle something may be aside once it is offered, in radians.
const LEEWAY: f64 = 0.09;

#[derive(Clone, Debug)]
pub(crate) struct PromptSpec {
    pub hold: Time,
    pub tags: Box<[TagId]>,
    pub config: Prompt,
}

impl Described for Prompt {
    type Spec = PromptSpec;
}

impl Resolve for Prompt {
    fn key(&self) -> &'static str {
        if self.quiet { "interact" } else { Self::DETECTOR.word() }
    }

    fn resolve(&self, resolver: &mut Resolver, _: Owner<'_>, field: &Field) -> Option<PromptSpec> {
        resolver.range(field.key("reach"), self.reach, &range::LENGTH);
        resolver.range(field.key("margin"), self.margin, &range::LENGTH_OR_NONE);
        resolver.angle(field.key("angle"), self.angle, &range::ANGLE);
        resolver.name(&self.key, &field.key("key"));
        let needs = field.key("needs");
        let tags = self.needs.tags.iter().enumerate();
        let tags = tags.filter_map(|(index, tag)| {
            let field = needs.key("tags").item(index);
            resolver.tag(tag, &field)
        });
        let tags: Vec<TagId> = tags.collect();
        for (key, counts) in
            [("counts", &self.needs.counts), ("own_counts", &self.needs.own_counts)]
        {
            for name in counts.keys() {
                resolver.name(name, &needs.key(key).key(name));
            }
        }
        for (name, least) in &self.needs.stats {
            let field = needs.key("stats").key(name);
            resolver.range(field.clone(), *least, &range::AMOUNT);
            resolver.stat(name, &field);
        }
        Some(PromptSpec {
            hold: resolver.seconds(field.key("hold"), self.hold),
            tags: tags.into(),
            config: self.clone(),
        })
    }
}

impl Detect for Prompt {
    fn asked(_: &PromptSpec, _: &Thing) -> Asked {
        Asked::ByPlayers
    }

    fn scope(&self) -> Scope {
        Scope { players: true, ..Scope::BODIES }
    }
}

/// The gates of a prompt, in order.
const fn gates<'a>() -> [Check<Look<'a>>; 12] {
    [
        enabled(),
        present(),
        apart(),
        admitted(),
        own(),
        condition(),
        Check {
            gate: Gate::InRange,
            passes: |look| look.gap() <= look.most(),
            evidence: |look| Evidence::Range { got: look.gap(), most: look.most() },
        },
        Check {
            gate: Gate::InAngle,
            passes: |look| look.angle() <= look.widest(),
            evidence: |look| Evidence::Angle { got: look.angle(), most: look.widest() },
        },
        Check {
            gate: Gate::InView,
            passes: |look| !look.spec.config.sight || look.hidden_by().is_none(),
            evidence: |look| look.hidden_by().map_or(Evidence::None, Evidence::HiddenBy),
        },
        Check {
            gate: Gate::Best,
            passes: |look| look.rival.is_none(),
            evidence: |look| look.rival.map_or(Evidence::None, Evidence::Instead),
        },
        Check {
            gate: Gate::Once,
            passes: |look| {
                let Target { space, on, .. } = look.target;
                limits::is_left(space.scene, space.state, (on, Detector::Prompt))
            },
            evidence: |_| Evidence::None,
        },
        Check {
            gate: Gate::Cooldown,
            passes: |look| look.ready_at().is_none_or(|time| look.target.state().now >= time),
            evidence: |look| look.ready_at().map_or(Evidence::None, Evidence::ReadyAt),
        },
    ]
}

struct Look<'a> {
    target: Target<'a>,
    spec: &'a PromptSpec,
    /// Whether it is offered already.
    offered: bool,
    /// How far off the player is, once it has been measured.
    distance: Cell<Option<f64>>,
    rival: Option<EntityId>,
}

looks_at_target!(Look<'_>);

impl Look<'_> {
    /// How far the player's body is from its shape, or from its origin if it has none.
    fn gap(&self) -> f64 {
        let gap = self.distance.get().unwrap_or_else(|| self.measure());
        self.distance.set(Some(gap));
        gap
    }

    fn measure(&self) -> f64 {
        let Target { space: Space { scene, state, .. }, on, who, .. } = self.target;
        let [own, player] = [on, who].map(|one| state.pose(scene, one, state.now));
        let thing = scene.thing(on);
        let mut nearest = f64::INFINITY;
        let parts = scene.thing(who).body.iter().flat_map(|body| &body.parts);
        for (offset, part) in parts.flat_map(PlacedPart::pieces) {
            let at = player * offset;
            let mut meet = |shape: &Convex, pose: &Pose| {
                nearest = nearest.min(gap(shape, pose, part, &at).max(0.0));
            };
            if let Some(solid) = &thing.solid {
                let near = part.bounds(&at).grown(self.most());
                solid.form.near(&own, &near, |shape, pose| meet(shape, pose));
            } else if let Some(zone) = &thing.zone {
                zone.form.pieces().for_each(|(offset, shape)| meet(shape, &(own * offset)));
            } else if let Some(body) = &thing.body {
                let pieces = body.parts.iter().flat_map(PlacedPart::pieces);
                pieces.for_each(|(offset, shape)| meet(shape, &(own * offset)));
            } else {
                let there = crate::geometry::distance_to_point(part, &at, own.position);
                nearest = nearest.min(there);
            }
        }
        nearest
    }

    /// A player that it is offered to already may go a little farther.
    fn most(&self) -> f64 {
        let config = &self.spec.config;
        config.reach + if self.offered { config.margin } else { 0.0 }
    }

    /// How far aside it is, in radians, as seen from above; 0 where the player stands on it.
    fn angle(&self) -> f64 {
        let Target { space: Space { scene, state, .. }, on, who, .. } = self.target;
        let [own, player] = [on, who].map(|one| state.pose(scene, one, state.now));
        let mut way = player.inverse().point(own.position);
        way.y = 0.0;
        if way.length() < ROUNDING { 0.0 } else { way.angle_between(DVec3::NEG_Z) }
    }

    fn widest(&self) -> f64 {
        self.spec.config.angle / 2.0 + if self.offered { LEEWAY } else { ROUNDING }
    }

    fn hidden_by(&self) -> Option<EntityId> {
        let Target { space, on, who, .. } = self.target;
        let there = space.state.pose(space.scene, on, space.state.now).position;
        self.target.hidden_by(eyes(space, who), there, Layers::ALL)
    }

    fn ready_at(&self) -> Option<Time> {
        let Target { space, on, who, .. } = self.target;
        limits::ready_at(space.scene, space.state, (on, Detector::Prompt, who))
    }
}

/// Where a body looks from: nine tenths of the way up.
fn eyes(Space { scene, state, .. }: Space<'_>, who: EntityId) -> DVec3 {
    let pose = state.pose(scene, who, state.now);
    let body = scene.thing(who).body.as_ref();
    body.map_or(pose.position, |body| crate::model::eyes(&body.bounds_at(&pose)))
}

/// A prompt that a player could use.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Usable<'a> {
    pub prompt: EntityId,
    pub spec: &'a PromptSpec,
    /// With what it gains by being offered already.
    distance: f64,
}

impl Usable<'_> {
    /// Whether it is preferred to another: by priority, then by distance, then by order.
    fn beats(&self, other: &Self) -> bool {
        let rank = |one: &Self| (std::cmp::Reverse(one.spec.config.priority), one.distance);
        let (own, its) = (rank(self), rank(other));
        own.0.cmp(&its.0).then(own.1.total_cmp(&its.1)).then(self.prompt.cmp(&other.prompt)).is_lt()
    }
}

/// What comes of asking a player's prompts.
pub(crate) struct Offers<'a> {
    pub changes: SmallVec<[Change; 2]>,
    /// All that the player could use now, offered or quiet, best first.
    pub usable: Vec<Usable<'a>>,
    /// Whether something near is only waiting for its cooldown.
    pub unsettled: bool,
}

/// Asks what may be offered to a player. `offered` are the prompts that are offered now.
pub(crate) fn ask<'a, W: Witness>(
    space: Space<'a>,
    player: EntityId,
    offered: &[EntityId],
    cause: Cause,
    failures: &'a Failures,
    witness: &mut W,
) -> Offers<'a> {
    let Space { scene, state, indices } = space;
    let detector = Detector::Prompt;
    let pose = state.pose(scene, player, state.now);
    let body = scene.thing(player).body.as_ref();
    let bounds = body.map_or(Aabb::EMPTY, |body| body.bounds_at(&pose));
    let mut near: SmallVec<[EntityId; 8]> = offered.into();
    let layers = scene.layers_of(player).0;
    indices.prompts.meeting(&bounds, layers, |face| near.push(face.entity));
    if W::LISTENS {
        let chain = |on| Target { space, on, detector, who: player, failures }.chain();
        let prompts = scene.ids().filter(|on| scene.has(*on, detector));
        near.extend(prompts.filter(|on| witness.wants(&chain(*on))));
    }
    near.sort_unstable();
    near.dedup();
    let all = gates();
    // What may be used, but for rivals and limits.
    let fits = all.iter().take_while(|check| check.gate != Gate::Best).count();
    let mut looks: Vec<Look<'a>> = Vec::new();
    for on in near {
        let Some(spec) = senses(scene, on).and_then(|senses| senses.prompt.as_ref()) else {
            continue;
        };
        let target = Target { space, on, detector, who: player, failures };
        let offered = offered.contains(&on);
        let mut look = Look { target, spec, offered, distance: Cell::new(None), rival: None };
        let fit = run(&all[..fits], &mut look, target.chain(), state.now, &mut Unwitnessed);
        if fit || W::LISTENS {
            look.rival = None;
            looks.push(look);
        }
    }
    let usable = |look: &Look<'a>| {
        let gain = if look.offered { look.spec.config.margin } else { 0.0 };
        Usable { prompt: look.target.on, spec: look.spec, distance: look.gap() - gain }
    };
    let may_be = |look: &mut Look<'a>| {
        let chain = look.target.chain();
        run(&all, look, chain, state.now, &mut Unwitnessed)
    };
    let fit: Vec<Usable<'a>> =
        looks.iter_mut().filter_map(|look| may_be(look).then(|| usable(look))).collect();
    let mut offers = Offers { changes: SmallVec::new(), usable: Vec::new(), unsettled: false };
    let mut kept: SmallVec<[EntityId; 4]> = SmallVec::new();
    for look in &mut looks {
        let own = usable(look);
        let rivals = fit.iter().filter(|other| {
            let config = &other.spec.config;
            let alone = !config.several && !own.spec.config.several;
            alone && !config.quiet && !own.spec.config.quiet && config.key == own.spec.config.key
        });
        look.rival = rivals.filter(|other| other.beats(&own)).map(|other| other.prompt).next();
        let chain = look.target.chain();
        let waits = look.ready_at().is_some_and(|time| time > state.now);
        offers.unsettled |= waits;
        if run(&all, look, chain, state.now, witness) {
            if !own.spec.config.quiet {
                kept.push(own.prompt);
            }
            offers.usable.push(own);
        }
    }
    offers.usable.sort_by(|one, other| {
        if one.beats(other) { std::cmp::Ordering::Less } else { std::cmp::Ordering::Greater }
    });
    for on in offered.iter().filter(|on| !kept.contains(on)) {
        offers.changes.push(Change::of(*on, detector, player, false, cause));
    }
    for on in kept.iter().filter(|on| !offered.contains(on)) {
        offers.changes.push(Change::of(*on, detector, player, true, cause));
    }
    offers
}

/// A player about to use a prompt.
pub(crate) struct Using<'a> {
    pub space: Space<'a>,
    pub prompt: EntityId,
    pub player: EntityId,
    /// What the same key uses instead.
    pub rival: Option<EntityId>,
    /// For how long the key has been held.
    pub held: Time,
}

impl Using<'_> {
    const CHOSEN: Check<Self> = Check {
        gate: Gate::Best,
        passes: |using| using.rival.is_none(),
        evidence: |using| using.rival.map_or(Evidence::None, Evidence::Instead),
    };

    const NEEDS: Check<Self> = Check {
        gate: Gate::Needs,
        passes: |using| using.lacks().is_none(),
        evidence: |using| match lacks(using.space, using.prompt, using.player) {
            Some((need, short)) => Evidence::Lacks { need, short },
            None => Evidence::None,
        },
    };

    const HELD: Check<Self> = Check {
        gate: Gate::Held,
        passes: |using| using.held >= using.hold(),
        evidence: |using| Evidence::Span { got: using.held.secs(), need: using.hold().secs() },
    };

    /// The first need that the player does not meet.
    pub fn lacks(&self) -> Option<String> {
        lacks(self.space, self.prompt, self.player).map(|(need, _)| need)
    }

    fn hold(&self) -> Time {
        let spec = senses(self.space.scene, self.prompt).and_then(|it| it.prompt.as_ref());
        spec.map_or(Time::ZERO, |spec| spec.hold)
    }

    fn chain(&self) -> Chain {
        Chain::Use { on: self.prompt, detector: Detector::Prompt, who: self.player }
    }

    /// Whether the player may begin to use it.
    pub fn may_begin<W: Witness>(mut self, witness: &mut W) -> bool {
        let (chain, now) = (self.chain(), self.space.state.now);
        go_on(&[Self::CHOSEN, Self::NEEDS], &mut self, chain, now, witness)
    }

    /// Whether the player has held its key for long enough.
    pub fn may_end<W: Witness>(mut self, witness: &mut W) -> bool {
        let (chain, now) = (self.chain(), self.space.state.now);
        go_on(&[Self::HELD], &mut self, chain, now, witness)
    }
}

/// The first need that a player does not meet; of a count or stat, how much there is and must be.
fn lacks(
    Space { scene, state, .. }: Space<'_>,
    prompt: EntityId,
    player: EntityId,
) -> Option<(String, Option<(f64, f64)>)> {
    let spec = senses(scene, prompt)?.prompt.as_ref()?;
    let needs = &spec.config.needs;
    let has = state.tags(scene, player);
    if let Some((_, tag)) = spec.tags.iter().zip(&needs.tags).find(|(tag, _)| !has.contains(tag)) {
        return Some((tag.clone(), None));
    }
    let of_scene = needs.counts.iter().map(|(name, least)| (None, name, least));
    let own = needs.own_counts.iter().map(|(name, least)| (Some(player), name, least));
    for (of, name, least) in of_scene.chain(own) {
        let count = state.count(of, name);
        if count < *least {
            return Some((name.clone(), Some((count as f64, *least as f64))));
        }
    }
    needs.stats.iter().find_map(|(name, least)| {
        let value = scene.stat_id(name).ok().and_then(|id| state.stat(scene, player, id));
        let short = value.is_none_or(|value| value < *least);
        short.then(|| (name.clone(), value.map(|value| (value, *least))))
    })
}
