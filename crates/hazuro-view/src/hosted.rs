//! The page from which a hosted play is played in a browser: the map, drawn as everywhere, and what it takes
//! to follow what the host tells.

use std::f64::consts::PI;

use hazuro::glam::DVec3;
use hazuro::scene::Detector;
use hazuro::{EntityId, Input, Play, Scene, Time};
use hazuro_verify::Loaded;
use serde::Serialize;

use crate::figures::{Firings, figures};
use crate::page::Page;
use crate::picture::{Picture, escape};

/// The look of the page.
const STYLE: &str = include_str!("../assets/hosted.css");
/// What it does.
const SCRIPT: &str = include_str!("../assets/hosted.js");
/// How large the map is, in pixels of its own.
const MAP: [u32; 2] = [860, 640];
/// At what time what is not there at the beginning is drawn: it has no name on the map.
const LATER: Time = Time::from_nanos(1);

/// What the script needs.
#[derive(Serialize)]
struct Data<'a> {
    /// How many pixels a metre has, and where the origin is.
    pixels: f64,
    origin: [f64; 2],
    /// By name, in the scene's order.
    things: Vec<Thing<'a>>,
    /// Those who can be played.
    players: Vec<&'a str>,
}

/// How something was drawn.
#[derive(Serialize)]
struct Thing<'a> {
    /// Its number, by which its figures say whose they are.
    index: usize,
    name: &'a str,
    /// East and south, in metres.
    at: [f64; 2],
    /// About Y, in degrees.
    turn: f64,
    /// Whether a click chooses it. On a click on anything else the player walks there.
    chosen: bool,
    /// Whether one can click on it, and carry it.
    clicks: bool,
    carried: bool,
}

/// The page of a scene, in one piece. It asks the host that it came from for a line, and is told a view of
/// what its player may know.
///
/// ```no_run
/// let loaded = hazuro_verify::load("demo/tidemill/mill.scene.toml".as_ref()).unwrap();
/// let page = hazuro_view::hosted_page(&loaded);
/// assert!(page.starts_with("<!DOCTYPE html>"));
/// ```
pub fn hosted_page(loaded: &Loaded) -> String {
    let scene = &loaded.scene;
    let play = everything(loaded.play());
    let firings = Firings::default();
    let mut picture = Picture::new(&play, &firings);
    picture.size = MAP;
    let described = scene.described().count();
    let (early, later): (Vec<_>, Vec<_>) = figures(&play, &firings)
        .into_iter()
        .filter(|figure| !is_kept(scene, figure.entity))
        .partition(|figure| figure.entity.index() < described);
    let mut drawing = picture.live();
    drawing.add(&early, Time::ZERO);
    drawing.add(&later, LATER);
    let (map, (pixels, origin)) = drawing.finish();
    let data = data(scene, &play, (pixels, origin));
    let title = escape(scene.title());
    let body = format!(
        "<header>\n<h1>{title}</h1>\n<p class=\"of\" id=\"standing\" role=\"status\">This page needs \
         scripts.</p>\n<button id=\"ground\" type=\"button\">light or dark</button>\n</header>\n<main>\n\
         <form id=\"join\" hidden>\n<label>Player <select id=\"player\"></select></label>\n<label>Token \
         <input id=\"token\" autocomplete=\"off\"></label>\n<button type=\"submit\">Join</button>\n\
         </form>\n<div class=\"stage\">\n<div class=\"maps\">\n<div id=\"live\">{map}</div>\n<p \
         class=\"keys\">Click on the ground or into a zone to walk there, on a thing to choose it. Arrows \
         walk, space jumps, other keys are pressed as they are.</p>\n</div>\n<aside id=\"side\">\n\
         <ul id=\"offers\"></ul>\n<div id=\"chosen\"></div>\n<h3>Said</h3>\n<ol id=\"said\" \
         aria-live=\"polite\"></ol>\n<h3>Events</h3>\n<ol id=\"events\"></ol>\n</aside>\n</div>\n</main>"
    );
    Page { title: scene.title(), style: STYLE, body: &body, data: &data, script: SCRIPT }.html()
}

/// The play with all that is not there at the beginning in it, so that it can be drawn.
fn everything(mut play: Play) -> Play {
    let absent: Vec<_> = play.scene().ids().collect();
    for what in absent {
        // What cannot come in is not drawn; what is in already stays.
        let _ = play.schedule(Time::ZERO, Input::Add { what, at: None });
    }
    play.advance(Time::ZERO);
    play
}

/// Whether the page, which anybody may ask for, says nothing of a thing.
fn is_kept(scene: &Scene, what: EntityId) -> bool {
    std::iter::successors(Some(what), |it| scene.parent(*it)).any(|it| scene.is_secret(it))
}

fn data(scene: &Scene, play: &Play, (pixels, origin): (f64, [f64; 2])) -> String {
    let thing = |id| {
        let pose = play.pose(id).unwrap_or_default();
        let ahead = pose.rotation * DVec3::NEG_Z;
        let is_known = !is_kept(scene, id);
        is_known.then(|| Thing {
            index: id.index(),
            name: scene.name(id),
            at: [pose.position.x, pose.position.z],
            turn: (-ahead.x).atan2(-ahead.z) * 180.0 / PI,
            chosen: scene.has_body(id)
                || scene.has(id, Detector::Prompt)
                || scene.has(id, Detector::Pointer),
            clicks: scene.has(id, Detector::Pointer),
            carried: scene.carry_of(id).is_some(),
        })
    };
    let players = scene.ids().filter(|id| scene.is_player(*id));
    let data = Data {
        pixels,
        origin,
        things: scene.ids().filter_map(thing).collect(),
        players: players.map(|id| scene.name(id)).collect(),
    };
    // Nothing in it may end the element it stands in.
    serde_json::to_string(&data).unwrap_or_default().replace('<', "\\u003c")
}
