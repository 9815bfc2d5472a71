//! Stats and effects: what they become, when, and what is told of it.

use smallvec::SmallVec;

use crate::Time;
use crate::describe::{Change, EffectId, EntityId, EventKind, LEG_STATS, Stacking, StatId};
use crate::record::{Expiry, Happening, Refusal};
use crate::state::{Active, Cause, Event, Reading, Scheduled, StatTrack, within};

use super::ActionContext;

impl ActionContext<'_> {
    /// Changes a stat.
    pub fn change_stat(
        &mut self,
        of: EntityId,
        name: &str,
        change: Change<f64>,
    ) -> Result<(), Refusal> {
        let stat = self.stat(of, name)?;
        let Some(base) = self.state.base(self.scene, of, stat) else { return Ok(()) };
        let changed = match change {
            Change::Add(amount) => base + amount,
            Change::Set(value) => value,
        };
        self.set_base(of, stat, changed);
        Ok(())
    }

    /// The stat of this name, if the entity has it.
    pub fn stat(&self, of: EntityId, name: &str) -> Result<StatId, Refusal> {
        let found = self.scene.stat_id(name).ok();
        let had = found.filter(|stat| self.scene.stat(of, *stat).is_some());
        had.ok_or_else(|| Refusal::Lacks(format!("the stat `{name}`")))
    }

    /// Lets a stat without its effects be this from now on.
    fn set_base(&mut self, of: EntityId, stat: StatId, base: f64) {
        let Some(spec) = self.scene.stat(of, stat) else { return };
        let rate = self.state.rate(self.scene, of, stat);
        let (now, turn) = (self.state.now, self.state.next_number());
        let new = StatTrack { base: spec.start, reported: spec.start, ..StatTrack::default() };
        let meter = self.state.values.stat_tracks.entry((of, stat)).or_insert(new);
        meter.base = within(base, spec);
        (meter.since, meter.rate, meter.turn) = (now, rate, turn);
        if let Some((time, _)) = self.brim(of, stat) {
            self.state.put_off(time, Scheduled::StatLimit { entity: of, stat, turn });
        }
        self.tell(of, stat);
    }

    /// When a stat that changes steadily comes to its least or most, and what it is then without
    /// its effects.
    fn brim(&self, of: EntityId, stat: StatId) -> Option<(Time, f64)> {
        let spec = self.scene.stat(of, stat)?;
        let meter = self.state.values.stat_tracks.get(&(of, stat))?;
        let (add, times) = self.state.alteration(self.scene, of, stat);
        let end = if meter.rate > 0.0 { spec.most } else { spec.least };
        let base = end / times - add;
        let seconds = (base - meter.base) / meter.rate;
        let reached = base.is_finite() && (spec.least..=spec.most).contains(&base);
        (reached && seconds > 0.0 && seconds < Time::MAX.secs())
            .then(|| (meter.since + Time::from_secs(seconds), base))
    }

    /// A stat that changes steadily has come to its least or most.
    pub fn reach_brim(&mut self, of: EntityId, stat: StatId, turn: u64) {
        if self.state.values.stat_tracks.get(&(of, stat)).is_some_and(|meter| meter.turn == turn)
            && let Some((_, base)) = self.brim(of, stat)
        {
            self.set_base(of, stat, base);
        }
    }

    /// Tells of what has become of a stat.
    fn tell(&mut self, of: EntityId, stat: StatId) {
        let (Some(is), Some(spec)) =
            (self.state.stat(self.scene, of, stat), self.scene.stat(of, stat))
        else {
            return;
        };
        let Some(meter) = self.state.values.stat_tracks.get_mut(&(of, stat)) else { return };
        let was = std::mem::replace(&mut meter.reported, is);
        if was.to_bits() == is.to_bits() {
            return;
        }
        let mut send = |kind| {
            let reading = Some(Reading { stat, was, is });
            let Event { time, tick, .. } = *self.event;
            let (on, who) = (Some(of), Some(of));
            self.send(Event { on, who, reading, ..Event::bare(kind, time, tick) });
        };
        send(EventKind::Stat);
        if is <= spec.least && was > spec.least {
            send(EventKind::Empty);
        }
        if is >= spec.most && was < spec.most {
            send(EventKind::Full);
        }
        if LEG_STATS.contains(&self.scene.stat_name(stat)) {
            // Whoever walks goes on at this speed, and falls so fast.
            self.state.decide_anew(of);
            self.disturb(of, Cause::Move);
        }
    }

    /// Puts an effect on an entity.
    pub fn begin_effect(&mut self, name: &str, of: EntityId) -> Result<(), Refusal> {
        let effect = self.effect(name, of)?;
        let (scene, now) = (self.scene, self.state.now);
        let spec = scene.effect_spec(effect);
        let stay = if spec.while_detected {
            Some(self.stay_of_event().ok_or(Refusal::NotDetected)?)
        } else {
            None
        };
        let until = spec.seconds.map(|seconds| now + seconds);
        let had = self
            .state
            .values
            .effects
            .get_mut(&of)
            .and_then(|effects| effects.iter_mut().find(|active| active.effect == effect));
        if let Some(had) = had.filter(|_| spec.again != Stacking::Add) {
            had.until = match spec.again {
                Stacking::Ignore => return Err(Refusal::HasAlready),
                Stacking::Extend => {
                    had.until.zip(spec.seconds).map(|(until, seconds)| until + seconds)
                }
                Stacking::Refresh | Stacking::Add => until,
            };
            had.stay = stay.or(had.stay);
            if let Some(until) = had.until {
                let number = had.number;
                self.state.put_off(until, Scheduled::EffectEnd { on: of, number, until });
            }
            return Ok(());
        }
        let number = self.state.next_number();
        let active = Active { effect, number, since: now, until, stay };
        let before = self.bases(of, effect);
        self.state.values.effects.entry(of).or_default().push(active);
        if let Some(until) = until {
            self.state.put_off(until, Scheduled::EffectEnd { on: of, number, until });
        }
        self.retune(of, &before);
        Ok(())
    }

    /// The effect of this name, if it changes any stat of the entity.
    fn effect(&self, name: &str, of: EntityId) -> Result<EffectId, Refusal> {
        let lacks = |need: &str| Refusal::Lacks(need.into());
        let effect = self.scene.effect_id(name).map_err(|fault| lacks(&fault.to_string()))?;
        let alters = &self.scene.effect_spec(effect).alters;
        let has = alters.iter().any(|(stat, _)| self.scene.stat(of, *stat).is_some());
        if has { Ok(effect) } else { Err(lacks("a stat that the effect changes")) }
    }

    /// The stay that the event began or is about.
    fn stay_of_event(&self) -> Option<u64> {
        let Event { on, who, kind, .. } = *self.event;
        let stays = &self.state.senses.occupancies.get(&(on?, kind.detector()?))?.stays;
        let range = (who?, 0)..=(who?, u32::MAX);
        stays.range(range).map(|(_, stay)| stay.number).next()
    }

    /// Ends an effect, all of its kind, on an entity.
    pub fn end_effects(&mut self, name: &str, of: EntityId) {
        let Ok(effect) = self.scene.effect_id(name) else { return };
        self.end_where(of, Expiry::Action, |active| active.effect == effect);
    }

    /// Ends an effect whose time is over.
    pub fn effect_over(&mut self, of: EntityId, number: u64, until: Time) {
        let over = |active: &Active| active.number == number && active.until == Some(until);
        self.end_where(of, Expiry::Time, over);
    }

    /// Ends the effects that end with a stay.
    pub fn stay_over(&mut self, stay: u64) {
        let ends = |active: &Active| active.stay == Some(stay);
        let having =
            self.state.values.effects.iter().filter(|(_, effects)| effects.iter().any(ends));
        let having: SmallVec<[EntityId; 2]> = having.map(|(of, _)| *of).collect();
        for of in having {
            self.end_where(of, Expiry::Left, ends);
        }
    }

    fn end_where(&mut self, of: EntityId, why: Expiry, ends: impl Fn(&Active) -> bool) {
        let Some(effects) = self.state.values.effects.get(&of) else { return };
        let ending: SmallVec<[EffectId; 2]> =
            effects.iter().filter(|active| ends(active)).map(|active| active.effect).collect();
        let before: SmallVec<[(StatId, f64); 4]> =
            ending.iter().flat_map(|effect| self.bases(of, *effect)).collect();
        if let Some(effects) = self.state.values.effects.get_mut(&of) {
            effects.retain(|active| !ends(active));
            if effects.is_empty() {
                self.state.values.effects.remove(&of);
            }
        }
        for effect in ending {
            self.expire(of, effect, why);
        }
        self.retune(of, &before);
    }

    fn expire(&mut self, of: EntityId, effect: EffectId, why: Expiry) {
        let effect = self.scene.effect_name(effect).to_owned();
        self.tell_of(Happening::Expired { time: self.state.now, effect, of, why });
    }

    /// The stats of an entity that an effect changes, without their effects.
    fn bases(&self, of: EntityId, effect: EffectId) -> SmallVec<[(StatId, f64); 4]> {
        let alters = self.scene.effect_spec(effect).alters.iter();
        alters
            .filter_map(|(stat, _)| Some((*stat, self.state.base(self.scene, of, *stat)?)))
            .collect()
    }

    /// Sees to stats whose effects have changed.
    fn retune(&mut self, of: EntityId, bases: &[(StatId, f64)]) {
        for (stat, base) in bases {
            self.set_base(of, *stat, *base);
        }
    }

    /// Ends all effects on an entity that goes away. Nobody is told.
    pub fn drop_effects(&mut self, of: EntityId) {
        let Some(effects) = self.state.values.effects.remove(&of) else { return };
        for active in effects {
            self.expire(of, active.effect, Expiry::Gone);
        }
        for (stat, _) in self.scene.stats_of(of) {
            let base = self.state.base(self.scene, of, stat);
            let now = self.state.now;
            if let (Some(base), Some(meter)) =
                (base, self.state.values.stat_tracks.get_mut(&(of, stat)))
            {
                (meter.base, meter.since, meter.rate) = (base, now, 0.0);
            }
        }
    }
}
