//! Rehearsing a tape with its players at desks of their own: what the host hears of it, and what each is told.

use std::collections::BTreeMap;
use std::ops::Range;

use hazuro::{EntityId, Input, Play, Scene, Time};
use hazuro_link::{Heard, News, Rehearsal, Room, Rules};

use super::Player;
use super::desk::{Desk, about, doing};
use crate::expect::{Expectation, Seen, Told, Watcher};
use crate::tape::Tape;
use crate::words::done;

/// A tape as it is played by several, each from elsewhere.
#[derive(Debug)]
pub(crate) struct Rehearsed {
    /// All that the host has heard, at the times at which it is done in the play.
    pub tape: Tape,
    /// What each player was told, in their order.
    pub told: Vec<Told>,
    /// Of each expectation that is about what a player sees at a moment: what they saw.
    pub moments: Vec<Option<Seen>>,
    /// What has gone otherwise than at one desk, in words.
    pub lines: Vec<String>,
}

/// Lets players do their part of a tape at desks of their own, and the host the rest. `play` is at its start, and
/// nothing has been done in it. The same seed gives the same.
pub(crate) fn rehearse(
    tape: &Tape,
    (players, expectations): (&[Player], &[Expectation]),
    play: Play,
    seed: u64,
) -> Rehearsed {
    let scene = &tape.scene;
    let is_at_desk = |input: &Input| {
        doing(scene, input).is_some_and(|(who, _)| players.iter().any(|it| it.id == who))
    };
    let host: Vec<usize> =
        (0..tape.inputs.len()).filter(|it| !is_at_desk(&tape.inputs[*it].1)).collect();
    let ids = players.iter().map(|player| player.id);
    let mut room = Room::for_players(play, Rules::default(), ids).trusting().recording();
    for number in &host {
        let (time, input) = &tape.inputs[*number];
        let taken = room.play_mut().schedule(*time, input.clone());
        debug_assert_eq!(taken, Ok(()), "each was checked when it was read");
    }
    let mut hall = Rehearsal::new(room);
    let seeds = (seed << 16)..;
    let desks = players.iter().zip(seeds);
    let mut desks: Vec<Desk<'_>> =
        desks.map(|(player, seed)| Desk::new(player, &tape.inputs, scene, seed)).collect();
    let mut moments: Vec<Option<Seen>> = vec![None; expectations.len()];
    let mut lines = Vec::new();
    let mut now = Time::ZERO;
    while now < tape.length {
        for desk in &mut desks {
            desk.keep_on(&mut hall, now);
            for (number, why) in desk.act(&mut hall, now) {
                lines.push(undone(tape, number, &why));
            }
        }
        hall.step();
        let before = std::mem::replace(&mut now, hall.room.play().now());
        for desk in &mut desks {
            desk.note(hall.room.play(), hall.room.play().entries());
            desk.hear(&mut hall, now);
        }
        for (expectation, moment) in expectations.iter().zip(&mut moments) {
            // At the end of the tick in which it is.
            let due = expectation.what.moment().filter(|at| *at <= now && moment.is_none());
            let (Some(at), Some(player)) = (due, expectation.seen_by) else { continue };
            let desk = desks.iter().find(|desk| desk.player.id == player);
            let client = desk.and_then(|desk| desk.client(&mut hall));
            if let Some(client) = client.filter(|_| at >= before) {
                *moment = expectation.what.look(&Watcher::of_client(client));
            }
        }
        for news in hall.room.news() {
            lines.extend(words(tape, &desks, now, &news));
        }
    }
    lines.extend(desks.iter().filter_map(|desk| desk.summary(scene)));
    let (inputs, places) = heard(tape, &host, &desks, hall.room.heard());
    let told = desks.into_iter().map(|desk| desk.told).collect();
    Rehearsed { tape: tape.with(inputs, places), told, moments, lines }
}

/// What was done in the play, by the host and by players, in order of time, and where that is written.
fn heard(
    tape: &Tape,
    host: &[usize],
    desks: &[Desk<'_>],
    heard: &[Heard],
) -> (Vec<(Time, Input)>, Vec<Range<usize>>) {
    let mut all: Vec<(Time, Input, Range<usize>)> = Vec::new();
    let mut comings: BTreeMap<EntityId, usize> = BTreeMap::new();
    // Before anything is done the players leave.
    let (leaving, later) = heard.split_at(desks.len().min(heard.len()));
    let given = host.iter().map(|number| {
        let (time, input) = tape.inputs[*number].clone();
        (time, input, tape.places[*number].clone())
    });
    let of_desk = |player: EntityId| desks.iter().find(|desk| desk.player.id == player);
    let mut place = |heard: &Heard| -> Range<usize> {
        let who = match (&heard.input, heard.deed) {
            (_, Some((who, _))) => who,
            (Input::Add { what, .. }, None) => *what,
            (Input::Remove(who), None) => *who,
            _ => return 0..0,
        };
        let coming = comings.entry(who).or_default();
        *coming += usize::from(matches!(heard.input, Input::Add { .. }));
        let Some(desk) = of_desk(who) else { return 0..0 };
        let asked = heard.deed.and_then(|(_, number)| {
            let of_coming = desk.asked.get(coming.checked_sub(1)?)?;
            of_coming.get(usize::try_from(number).ok()?.checked_sub(1)?)
        });
        asked.map_or(desk.player.span.clone(), |number| tape.places[*number].clone())
    };
    let mut with_place = |heard: &Heard| (heard.at, heard.input.clone(), place(heard));
    all.extend(leaving.iter().map(&mut with_place));
    all.extend(given);
    all.extend(later.iter().map(&mut with_place));
    all.sort_by_key(|(time, ..)| *time);
    all.into_iter().map(|(time, input, place)| ((time, input), place)).unzip()
}

/// That an input of the tape was not done, in words.
fn undone(tape: &Tape, number: usize, why: &str) -> String {
    let line = tape.line_of(number).unwrap_or_default();
    let (time, input) = &tape.inputs[number];
    let what = done(&tape.scene, input);
    format!("line {line} of the tape was not done, at {time:#} s: {what}: {why}")
}

/// What has come about at the host, in words; nothing of what is as it was to be.
fn words(tape: &Tape, desks: &[Desk<'_>], now: Time, news: &News) -> Option<String> {
    let (scene, now): (&Scene, f64) = (&tape.scene, about(now));
    match news {
        News::Refused { player, number, why } => {
            let desk = desks.iter().find(|desk| desk.player.id == *player)?;
            let asked = desk.asked.last()?.get(usize::try_from(*number).ok()?.checked_sub(1)?)?;
            Some(undone(tape, *asked, &why.to_string()))
        }
        News::Denied { why, .. } => Some(format!("at {now} s somebody was not let in: {why}")),
        News::CutOff { player } => Some(format!("{} was cut off at {now} s", scene.name(*player))),
        News::Back { player } => Some(format!("{} was back at {now} s", scene.name(*player))),
        _ => None,
    }
}
