//! Telling a witness of the zones and touch detectors in which something has come nearer, or changed.

use crate::Time;
use crate::describe::EntityId;
use crate::detect::{look, members};
use crate::model::Scene;
use crate::state::State;
use crate::why::{Chain, Witness};

use super::hearing::{HAIR, Hearing};
use super::pending::REGIONS;
use super::watch::Watch;

impl Watch {
    /// Runs the gates of every pair that a witness asks for, from now until `until`, for it to
    /// hear.
    pub fn hear<W: Witness>(&mut self, scene: &Scene, state: &State, until: Time, witness: &mut W) {
        let hearing = &mut self.hearing;
        if hearing.known.is_empty() {
            hearing.begin(scene, witness);
        }
        if hearing.regions.is_empty() {
            return;
        }
        let Hearing { regions, subjects, known, quiet, refused } = hearing;
        let mut news: Vec<bool> = vec![false; known.len()];
        for (entity, (mark, known)) in scene.ids().zip(self.marks.iter().zip(known.iter_mut())) {
            let moves_until = || state.horizon(scene, entity);
            if known.is_news(mark.change, moves_until, state.now) {
                news[entity.index()] = true;
                known.follow(scene, state, entity, until);
            }
        }
        if !news.contains(&true) {
            return;
        }
        // Most stand still: for what does, only those who do not are looked at.
        let stirring = REGIONS.map(|detector| {
            let is_news = |who: &EntityId| {
                members(scene, detector, *who).iter().any(|member| news[member.index()])
            };
            let all = subjects.iter().enumerate().filter(|(_, who)| is_news(who));
            all.map(|(place, _)| place).collect::<Vec<usize>>()
        });
        let once = !witness.hears_again();
        let everybody: Vec<usize> = (0..subjects.len()).collect();
        for (row, &(on, detector)) in regions.iter().enumerate() {
            let Some(region) = scene.thing(on).region(detector) else { continue };
            let kind = usize::from(detector != REGIONS[0]);
            let near = if news[on.index()] { &everybody } else { &stirring[kind] };
            let own = &known[on.index()];
            for &place in near {
                let who = subjects[place];
                let loose = || region.solids && state.bearer(scene, who).is_none();
                if !(scene.has_body(who) || loose()) {
                    continue;
                }
                let all = members(scene, detector, who);
                let both = || std::iter::once(own).chain(all.iter().map(|it| &known[it.index()]));
                let moved: f64 = both().map(|it| it.moved).sum();
                let changed = || both().fold(0, |sum: u32, it| sum.wrapping_add(it.changes()));
                let pair = row * subjects.len() + place;
                let (quiet, refused) = (quiet.get_mut(pair), refused.get_mut(pair));
                if quiet.as_ref().is_some_and(|quiet| moved < **quiet)
                    || refused.as_ref().is_some_and(|it| it.is_some_and(|it| it == changed()))
                {
                    continue;
                }
                let changed = changed();
                let chain = Chain::Detector { on, detector, who };
                if !witness.wants(&chain) {
                    continue;
                }
                let apart =
                    all.iter().map(|it| own.regions[kind].distance(&known[it.index()].bounds));
                let apart = apart.fold(f64::INFINITY, f64::min) - HAIR;
                let wanted = witness.wants_within(&chain);
                if apart <= 0.0 || apart < wanted {
                    look((scene, state), (on, detector, who), until, witness);
                    // It is still wanted however far off: so it was stopped before that counted.
                    let stopped = once && witness.wants_within(&chain) == f64::INFINITY;
                    if let Some(refused) = refused {
                        *refused = stopped.then_some(changed);
                    }
                } else if let Some(quiet) = quiet {
                    *quiet = moved + (apart - wanted.max(0.0));
                }
            }
        }
    }
}
