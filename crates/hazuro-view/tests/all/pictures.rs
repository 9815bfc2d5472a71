//! Pictures: what is in them, by the words that programs read aloud.

use crate::support;

use std::collections::BTreeSet;

use hazuro::Time;
use hazuro_view::{Firings, Picture, Recording, Timeline, View, chart, png};
use support::{YARD, demo, scene};

/// The texts of a picture.
fn texts(svg: &str) -> BTreeSet<String> {
    let parts = svg.split("role=\"img\" aria-label=\"").skip(2);
    parts.filter_map(|part| Some(part.split_once('"')?.0.to_owned())).collect()
}

fn has(svg: &str, text: &str) -> bool {
    texts(svg).contains(text)
}

#[test]
fn a_picture_names_what_is_there_and_says_what_marks_mean() {
    let yard = scene(YARD);
    let play = hazuro::Play::new(yard.scene.clone());
    let firings = Firings::default();
    let svg = Picture::new(&play, &firings).svg();
    for name in ["miller", "pad", "cellar (off)", "lever", "gate", "sack", "N", "Legend"] {
        assert!(has(&svg, name), "{name} in {:?}", texts(&svg));
    }
    for words in ["switched off", "player, facing", "zone or detector, nobody there", "solid"] {
        assert!(has(&svg, words), "{words}");
    }
    assert!(!has(&svg, "has just fired"), "the legend tells only of what is there");
    let rulers = |text: &String| text.ends_with(" m") && text.len() < 6;
    assert!(texts(&svg).iter().any(rulers));
}

#[test]
fn states_differ_without_colour() {
    let yard = scene(YARD);
    let mut play = hazuro::Play::new(yard.scene.clone());
    play.place("miller", [0.0, 0.0, -4.0]).unwrap();
    let recording = Recording::of(&mut play, Time::from_secs(0.2));
    let mut firings = Firings::default();
    firings.note(&recording.entries);
    assert!(has(&Picture::new(&play, &firings).svg(), "has just fired"));
    play.advance(Time::from_secs(2.0));
    let svg = Picture::new(&play, &firings).svg();
    assert!(has(&svg, "detects somebody") && !has(&svg, "has just fired"));
    // Hatched, dashed, crossed out.
    assert!(svg.contains(".m-occupied{") && svg.contains("fill:url(#hatch-occupied)"));
    assert!(svg.contains("stroke-dasharray:5 3"));
}

#[test]
fn ways_and_events_are_numbered_within_the_span() {
    let loaded = demo("gate.playtest.toml");
    let playtest = loaded.playtest.as_ref().unwrap();
    let mut play = playtest.play();
    let recording = Recording::of(&mut play, playtest.length());
    let firings = Firings::default();
    let whole = Picture { recording: Some(&recording), ..Picture::new(&play, &firings) };
    let svg = whole.svg();
    assert!(has(&svg, "enter sluice_pad miller") && has(&svg, "hit path_ray miller"));
    assert!(has(&svg, "2.400"), "when");
    assert!(!texts(&svg).iter().any(|text| text.starts_with("exit")), "ends are no events of note");
    let early = Picture { span: (Time::ZERO, Time::from_secs(2.0)), ..whole.clone() };
    let svg = early.svg();
    assert!(has(&svg, "hit path_ray miller") && !has(&svg, "enter sluice_pad miller"));
    let miller = loaded.scene.find("miller").unwrap();
    let svg = Picture { only: vec![miller], ..whole.clone() }.svg();
    assert!(has(&svg, "miller") && !has(&svg, "apprentice") && !has(&svg, "token_1"));
    let place = play.pose("tide_bell").unwrap().position;
    let svg = Picture { around: Some((place, 3.0)), ..whole }.svg();
    assert!(has(&svg, "tide_bell") && !has(&svg, "granary_loft"));
}

#[test]
fn pictures_of_all_sides_are_of_the_size_asked_for() {
    let loaded = demo("tidemill.scene.toml");
    let play = loaded.play();
    let firings = Firings::default();
    for (size, dark) in [([1280, 800], false), ([640, 480], true), ([200, 200], false)] {
        let views = View::ALL.to_vec();
        let picture = Picture { size, dark, views, ..Picture::new(&play, &firings) };
        let svg = picture.svg();
        let image = png(&svg).unwrap();
        // Width and height stand at fixed places of a PNG.
        let number = |at: usize| u32::from_be_bytes(image[at..at + 4].try_into().unwrap());
        assert_eq!([number(16), number(20)], size);
        assert_eq!(svg, picture.svg(), "the same each time");
        assert!(!svg.contains("NaN") && !svg.contains("inf"));
    }
    assert!(png("<svg").is_err());
}

#[test]
fn hostile_names_and_empty_scenes_are_drawn() {
    let hostile = scene(
        "[scene]\nname = \"<script>&\\\"'\"\n[[entity]]\nname = \"a<b>&'\\\"\"\nzone = { sphere = { radius = 1 } }\n\
         [[entity]]\nname = \"мельница 水車 🌊\"\nat = [3, 0, 0]\n",
    );
    for loaded in [hostile, scene("[scene]\nname = \"Nothing\"\n")] {
        let play = hazuro::Play::new(loaded.scene.clone());
        let firings = Firings::default();
        for view in View::ALL {
            let svg = Picture { views: vec![view], ..Picture::new(&play, &firings) }.svg();
            assert!(!svg.contains("<script>"));
            png(&svg).unwrap();
        }
    }
}

#[test]
fn a_timeline_has_a_row_for_each_detector() {
    let loaded = demo("mill.playtest.toml");
    let playtest = loaded.playtest.as_ref().unwrap();
    let recording = Recording::of(&mut playtest.play(), playtest.length());
    let svg = chart("Tide mill", &Timeline::of(&loaded.scene, &recording), 1280, true);
    for words in ["flour_dust", "zone", "effects", "cues", "said", "refused, or wrong", "60 s"] {
        assert!(has(&svg, words), "{words}");
    }
    assert!(svg.contains("31.500000 s  millstone refused miller"), "marks say what they are");
    png(&svg).unwrap();
}
