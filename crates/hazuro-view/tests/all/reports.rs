//! Report pages, as somebody without scripts reads them, and as a browser runs them.

use crate::support;

use std::path::PathBuf;
use std::process::Command;

use hazuro::Time;
use hazuro_view::Report;
use support::{YARD, demo, scene};

fn page(name: &str) -> String {
    let loaded = demo(name);
    let length = loaded.playtest.as_ref().unwrap().length();
    Report::of(&loaded, length).html()
}

#[test]
fn a_page_can_be_read_without_scripts_and_without_a_network() {
    let page = page("gate.playtest.toml");
    let before = page.split_once("<script").unwrap().0;
    for words in [
        "✓ all 11 expectations met",
        "enter sluice_pad: heron, never",
        "<h2>Timeline</h2>",
        "<h2>Coverage</h2>",
        "Nothing suspicious in the scene.",
        "“The gate opens for miller.”",
        "→ move leaf_left to left_open over 0.8 s",
        "2.400000",
        "<td>enter</td><td>sluice_pad</td>",
        "<h2>Legend</h2>",
    ] {
        assert!(before.contains(words), "{words}");
    }
    // The name of SVG looks like an address, but nobody goes there.
    let page = page.replace("http://www.w3.org/2000/svg", "");
    for word in ["http:", "https:", "src=", "@import", "url(http", "<link"] {
        assert!(!page.contains(word), "{word}");
    }
    assert!(page.len() < 400_000, "{} bytes", page.len());
}

#[test]
fn what_went_otherwise_than_at_one_desk_is_told() {
    let page = page("far.playtest.toml");
    for words in [
        "enter plate: bob, not before 8 s, by 8.5 s, seen by cay",
        "<h3>Players at desks of their own</h3>\n<ul>\n<li>bob was in from",
    ] {
        assert!(page.contains(words), "{words}");
    }
    assert!(!self::page("quay.playtest.toml").contains("desks of their own"));
}

#[test]
fn what_failed_comes_first_with_why_and_cure() {
    let mut loaded = demo("gate.playtest.toml");
    let playtest = loaded.playtest.as_ref().unwrap();
    let text = playtest.source().text().replace("who = \"heron\", never = true", "who = \"heron\"");
    let source = hazuro_format::Source::new(playtest.source().name(), text);
    let broken = hazuro_verify::read_playtest(&source, loaded.scene.clone()).unwrap();
    loaded.playtest = Some(broken.with_scripts(loaded.scripts.clone()));
    let page = Report::of(&loaded, Time::from_secs(12.0)).html();
    assert!(page.contains("✗ 2 of 11 expectations not met"));
    let (unmet, met) = (page.find("✗ not met").unwrap(), page.find("✓ met").unwrap());
    assert!(unmet < met);
    assert!(page.contains("heron was stopped at &quot;subject is admitted&quot;"));
}

#[test]
fn findings_and_hostile_names_stand_in_it_as_text() {
    let text = YARD.replace("\"cellar\"", "\"<script><b>\"").replace("enabled = false\n", "");
    let text = text.replace("\"Yard\"", "\"</script><b>\"");
    let text = text.replace("admit = { players = true }", "admit = { tags = [\"nobody\"] }");
    let text = format!("{text}\n[kind.ghost]\ntags = [\"nobody\"]\n");
    let loaded = scene(&text);
    let page = Report::of(&loaded, Time::from_secs(1.0)).html();
    assert!(page.contains("▲ warning") && page.contains("never-set-off"));
    assert_eq!(page.matches("</script>").count(), 2, "only those of the page itself");
    assert!(page.contains("&lt;/script&gt;&lt;b&gt;") && page.contains("&lt;script&gt;&lt;b&gt;"));
    // A scene without a playtest has no expectations to tell of.
    assert!(!page.contains("<h2>Expectations</h2>"));
}

#[test]
fn what_is_highlighted_stands_in_the_map_while_it_is() {
    let hoist = demo("yard.playtest.toml").scene.find("hoist").unwrap().index();
    let page = page("yard.playtest.toml");
    let group = format!("data-e=\"{hoist}\" data-t=\"0.000\" data-m=\"highlight\"");
    assert_eq!(page.matches(&group).count(), 1);
    let lit = page.split_once("\"lit\":{").unwrap().1;
    assert!(lit.starts_with(&format!("\"{hoist}\":[[3.0,")), "{}", &lit[..60]);
}

/// A Chromium, if this machine has one.
fn chromium() -> Option<PathBuf> {
    let names = ["chromium", "chromium-browser"];
    let path = std::env::var_os("PATH")?;
    std::env::split_paths(&path)
        .flat_map(|folder| names.map(|name| folder.join(name)))
        .find(|file| file.exists())
}

/// What a page has become in a real browser after a script of ours has used it.
fn in_browser(page: &str, script: &str) -> String {
    let folder = std::env::temp_dir().join(format!("hazuro-page-{}", std::process::id()));
    std::fs::create_dir_all(&folder).unwrap();
    let file = folder.join("report.html");
    let errors =
        "<script>window.onerror = (e) => document.documentElement.dataset.error = e</script>";
    let page = page.replacen("<head>", &format!("<head>{errors}"), 1);
    let page = page.replacen("</body>", &format!("<script>{script}</script></body>"), 1);
    std::fs::write(&file, page).unwrap();
    let output = Command::new(chromium().expect("a Chromium on the path"))
        .args(["--headless", "--no-sandbox", "--disable-gpu", "--no-first-run"])
        .args(["--disable-background-networking", "--disable-component-update", "--disable-sync"])
        .arg(format!("--user-data-dir={}", folder.join("profile").display()))
        .args(["--virtual-time-budget=4000", "--dump-dom"])
        .arg(format!("file://{}", file.display()))
        .output()
        .unwrap();
    let _ = std::fs::remove_dir_all(&folder);
    String::from_utf8(output.stdout).unwrap()
}

#[test]
#[ignore = "needs a Chromium; run with --ignored where there is one"]
fn a_browser_runs_slider_keys_and_clicks() {
    let page = page("gate.playtest.toml");
    let script = r##"
        const say = (name, value) => { document.documentElement.dataset[name] = value; };
        const of = (name) => Object.entries(JSON.parse(document.getElementById("data").textContent).names).find(([, n]) => n === name)[0];
        const group = (name, state) => document.querySelector(`#live g[data-t][data-e="${of(name)}"]`);
        const state = () => group("sluice_pad").querySelector("[class^=m-]").getAttribute("class");
        const slider = document.getElementById("time");
        const to = (t) => { slider.value = t; slider.dispatchEvent(new Event("input")); };
        to(1); say("before", state());
        to(2.6); say("fired", state());
        to(3.3); say("occupied", state());
        say("moved", group("miller").getAttribute("transform"));
        document.dispatchEvent(new KeyboardEvent("keydown", { code: "ArrowRight", bubbles: true }));
        document.body.dispatchEvent(new KeyboardEvent("keydown", { code: "ArrowRight", bubbles: true }));
        say("stepped", document.getElementById("now").textContent);
        [...document.querySelectorAll("#events tr[data-i]")].find((r) => r.textContent.includes("sluice_pad")).click();
        say("told", document.getElementById("side").textContent);
        say("still", getComputedStyle(document.getElementById("still")).display);
        document.getElementById("ground").click();
        say("paper", getComputedStyle(document.body).backgroundColor);
    "##;
    let dom = in_browser(&page, &script.replace("document.dispatchEvent(new Key", "void (new Key"));
    let value = |name: &str| {
        let rest = dom.split_once(&format!("data-{name}=\"")).map(|it| it.1);
        rest.and_then(|rest| rest.split_once('"')).map(|it| it.0.to_owned()).unwrap_or_default()
    };
    assert_eq!(value("error"), "", "no script fails");
    assert_eq!(value("before"), "m-idle");
    assert_eq!(value("fired"), "m-fired");
    assert_eq!(value("occupied"), "m-occupied");
    assert!(value("moved").starts_with("translate(0 -"), "north: {}", value("moved"));
    assert_eq!(value("stepped"), "3.52 s");
    assert!(value("told").contains("✗ subject is admitted"), "{}", value("told"));
    assert!(value("told").contains("cure: give `heron`"), "{}", value("told"));
    assert_eq!(value("still"), "none");
    assert_eq!(value("paper"), "rgb(18, 24, 29)");
}
