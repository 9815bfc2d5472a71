//! What a player may know of a play: what is seen at a moment, and what of it is told to whom.

use std::collections::BTreeMap;

use hazuro::scene::{Action, Detector, Facts, Switch};
use hazuro::{EntityId, Entry, Happening, Play, Scene};

use crate::view::{Kept, Seen, SeenEvent, SeenOffer, View};

/// A tenth of a millimetre is enough to see.
fn short(number: f64) -> f64 {
    // Not below nothing: no sign before a zero.
    (number * 1e4).round() / 1e4 + 0.0
}

/// All that is seen of a moment, the same for everybody, so that it is found out once.
#[derive(Debug)]
pub(crate) struct Scenery {
    all: Vec<Seen>,
    /// Whom each detects.
    detected: Vec<Vec<EntityId>>,
    has_secrets: bool,
}

impl Scenery {
    pub fn of(play: &Play) -> Self {
        let scene = play.scene();
        let detected = scene.ids().map(|id| detected(play, id)).collect();
        Self {
            all: scene.ids().map(|id| seen(play, id)).collect(),
            detected,
            has_secrets: scene.has_secrets(),
        }
    }
}

fn detected(play: &Play, on: EntityId) -> Vec<EntityId> {
    let scene = play.scene();
    let of = |detector: Detector| {
        // What a body stands on goes on all the time.
        let asked = detector != Detector::Footing && scene.has(on, detector);
        if asked { play.detected(on, detector).unwrap_or_default() } else { Vec::new() }
    };
    let mut all: Vec<EntityId> = Detector::ALL.into_iter().flat_map(of).collect();
    all.sort_unstable();
    all.dedup();
    all
}

fn seen(play: &Play, id: EntityId) -> Seen {
    let facts = play.facts();
    if !facts.is_there(id) {
        return Seen::absent();
    }
    let pose = play.pose(id).unwrap_or_default();
    let is_on = |switch| Some(facts.is_on(id, switch));
    let owner = play.owner(id).ok().flatten();
    Seen {
        there: Some(true),
        at: Some(pose.position.to_array().map(short)),
        turned: Some(pose.rotation.to_array().map(short)),
        enabled: is_on(Switch::Enabled),
        solid: is_on(Switch::Solid),
        detect: is_on(Switch::Detect),
        visible: is_on(Switch::Visible),
        detects: None,
        owner: Some(owner.map_or(String::new(), |owner| play.scene().name(owner).to_owned())),
    }
}

/// What a client was told, and what it is to be told next.
#[derive(Debug, Default)]
pub(crate) struct Onlooker {
    told: Vec<Seen>,
    offers: Option<Vec<SeenOffer>>,
    events: Vec<SeenEvent>,
    said: Vec<String>,
    kept: Vec<Kept>,
    /// The tick at which it was last told.
    told_at: u64,
}

impl Onlooker {
    /// Lets it be told everything.
    pub fn forget(&mut self) {
        self.told.clear();
        self.offers = None;
    }

    /// Keeps what its player may know of what happened.
    pub fn note(&mut self, play: &Play, player: EntityId, entries: &[Entry]) {
        let scene = play.scene();
        let known = |id: &EntityId| play.knows(player, *id).unwrap_or(false);
        let name = |id: EntityId| scene.name(id).to_owned();
        for entry in entries {
            match &entry.what {
                Happening::Event(event) if event.on.iter().chain(&event.who).all(known) => {
                    let place = event.meeting.map(|meeting| meeting.point).or(event.at);
                    self.events.push(SeenEvent {
                        time: event.time.secs(),
                        kind: event.kind.word().to_owned(),
                        on: event.on.map(name),
                        who: event.who.map(name),
                        cause: event.cause.map(|cause| cause.to_string()),
                        at: place.map(|place| place.to_array().map(short)),
                    });
                }
                Happening::Said { text, to, .. } if to.is_none_or(|to| to == player) => {
                    self.said.push(text.clone());
                }
                Happening::Refused { time, action: Action::Grab { what, to }, why, .. }
                    if *to == player =>
                {
                    let (what, why) = (name(*what), why.words(scene));
                    self.kept.push(Kept { time: time.secs(), what, why });
                }
                _ => {}
            }
        }
    }

    /// What is to be told now, if anything is, or it must be told: it is told at least once a second.
    pub fn view(
        &mut self,
        play: &Play,
        (player, tick): (EntityId, u64),
        scenery: &Scenery,
        must: bool,
    ) -> Option<View> {
        let scene = play.scene();
        let mut things = BTreeMap::new();
        self.told.resize(scene.len(), Seen::absent());
        let known = |id: EntityId| !scenery.has_secrets || play.knows(player, id).unwrap_or(false);
        for (id, told) in scene.ids().zip(&mut self.told) {
            let all = &scenery.all[id.index()];
            let mut now = if known(id) { all.clone() } else { Seen::absent() };
            if now.there == Some(true) {
                let whom = scenery.detected[id.index()].iter().filter(|whom| known(**whom));
                now.detects = Some(whom.map(|whom| scene.name(*whom).to_owned()).collect());
            }
            if let Some(new) = now.since(told) {
                things.insert(scene.name(id).to_owned(), new);
                *told = now;
            }
        }
        let offers = offers(play, player, known);
        let new = Some(offers).filter(|offers| self.offers.as_ref() != Some(offers));
        if new.is_some() {
            self.offers.clone_from(&new);
        }
        let silent = !must
            && things.is_empty()
            && new.is_none()
            && self.events.is_empty()
            && self.said.is_empty()
            && self.kept.is_empty()
            && tick - self.told_at < u64::from(play.rate());
        if silent {
            return None;
        }
        self.told_at = tick;
        Some(View {
            tick,
            time: play.now().secs(),
            things,
            events: std::mem::take(&mut self.events),
            offers: new,
            said: std::mem::take(&mut self.said),
            kept: std::mem::take(&mut self.kept),
            ..View::default()
        })
    }
}

fn offers(play: &Play, player: EntityId, known: impl Fn(EntityId) -> bool) -> Vec<SeenOffer> {
    let name = |scene: &Scene, id| scene.name(id).to_owned();
    let offers = play.offers(player).unwrap_or_default().into_iter();
    let offers = offers.filter(|offer| known(offer.prompt)).map(|offer| SeenOffer {
        with: name(play.scene(), offer.prompt),
        key: offer.key.to_owned(),
        caption: offer.caption.to_owned(),
        highlight: name(play.scene(), offer.highlight),
        hold: offer.hold,
        progress: short(offer.progress),
    });
    offers.collect()
}
