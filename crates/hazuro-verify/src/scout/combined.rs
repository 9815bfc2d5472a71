//! Several visits in one play.

use hazuro::scene::Detector;
use hazuro::{Chance, EntityId, Scene};

use super::spots::{bounds, place, size};
use super::subjects::is_sent;
use super::visit::{Manner, Visit, line};
use super::visits::suits;

/// Several visits after one another, by chance.
pub(super) fn combine(pool: &[&Visit], chance: &mut Chance) -> Option<Visit> {
    let pick =
        |chance: &mut Chance| pool.get((chance.next() * pool.len() as f64) as usize).copied();
    let first = pick(chance)?.clone();
    let mut whole = Visit { how: "several visits, one after another".into(), ..first };
    whole.manner = Manner::Other;
    for _ in 0..3 {
        whole.follow_with(pick(chance)?);
    }
    Some(whole)
}

/// The most often that a visit is made again until a condition holds.
const AGAIN: usize = 12;
/// The most others that are there meanwhile.
const OTHERS: usize = 3;

/// More ways in which a condition may come to hold that does not in a visit by itself: the visit
/// again and again; with others inside; after another visit.
pub(super) fn more_of(scene: &Scene, visit: &Visit, pool: &[&Visit]) -> Vec<Visit> {
    let mut again = Visit { how: format!("{}, {AGAIN} times", visit.how), ..visit.clone() };
    again.times *= AGAIN;
    for _ in 1..AGAIN {
        again.follow_with(visit);
    }
    let mut more = vec![again];
    let mut company = visit.clone();
    let others = if visit.detector == Detector::Zone { admitted(scene, visit) } else { Vec::new() };
    for other in others.into_iter().take(OTHERS) {
        let goal = (visit.on, visit.detector);
        let (shape, (middle, _)) = (bounds(scene, goal), size(scene, other));
        let inside = place((shape.min + shape.max) / 2.0 - middle);
        let stays = line(scene, 0.0, other, &format!("place_at = {inside}"));
        company.tape.insert(0, stays);
        company.how = format!("{}, while `{}` is inside", company.how, scene.name(other));
        more.push(company.clone());
    }
    for before in pool.iter().filter(|before| (before.on, &before.how) != (visit.on, &visit.how)) {
        let how = format!("{}, after `{}`: {}", visit.how, scene.name(before.on), before.how);
        let mut both = Visit { how, tape: before.tape.clone(), ..visit.clone() };
        both.seconds = before.seconds;
        both.follow_with(visit);
        more.push(both);
    }
    more
}

/// Everybody else whom a detector admits and who can be sent.
fn admitted(scene: &Scene, visit: &Visit) -> Vec<EntityId> {
    let goal = (visit.on, visit.detector);
    let goes = |who: &EntityId| scene.has_body(*who) && is_sent(scene, *who);
    let admits = |who: &EntityId| scene.admits(visit.on, *who) && scene.are_apart(visit.on, *who);
    let others = scene.described().filter(|who| *who != visit.who && suits(scene, goal, *who));
    others.filter(goes).filter(admits).collect()
}

/// A line of a tape, `seconds` later.
fn shifted(line: &str, by: f64) -> String {
    let Some((at, rest)) = line.trim_start_matches("{ at = ").split_once(", ") else {
        return line.into();
    };
    let at = at.parse().unwrap_or(0.0) + by;
    format!("{{ at = {}, {rest}", (at * 1e3).round() / 1e3)
}

impl Visit {
    /// Another visit after this one, in the same play.
    fn follow_with(&mut self, next: &Self) {
        let later = next.tape.iter().map(|line| shifted(line, self.seconds));
        self.tape.extend(later);
        self.seconds += next.seconds;
    }
}
