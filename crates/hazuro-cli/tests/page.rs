//! The page of a host, used as players use it. Only where there is a browser: `cargo test -- --ignored`.

mod support;

use support::browser::Browser;
use support::demo;
use support::hosting::host;

/// Clicks on the map, at a place in metres east and south.
fn click_at(page: &mut Browser, [x, z]: [f64; 2]) {
    let place = page.ask(&format!(
        "(() => {{
            const {{ origin, pixels }} = JSON.parse(document.getElementById('data').textContent);
            const at = new DOMPoint(origin[0] + {x} * pixels, origin[1] + {z} * pixels);
            const to = at.matrixTransform(document.querySelector('#live svg').getScreenCTM());
            return [to.x, to.y];
        }})()"
    ));
    page.click([place[0].as_f64().unwrap(), place[1].as_f64().unwrap()]);
}

fn press_button(page: &mut Browser, words: &str) {
    let found = page.ask(&format!(
        "(() => {{
            const all = [...document.querySelectorAll('button')];
            const found = all.find((it) => it.textContent === {words:?});
            found?.click();
            return Boolean(found);
        }})()"
    ));
    assert_eq!(found, true, "there is no button `{words}`");
}

#[test]
#[ignore = "needs a Chromium; run with --ignored where there is one"]
fn two_browsers_on_one_desk_are_two_players() {
    let (mut host, address) = host(&demo("quay.scene.toml"));
    let open = |name| Browser::open(name, &format!("http://{address}/?token=tide&player={name}"));
    let (mut ada, mut bob) = (open("ada"), open("bob"));
    ada.wait("standing", "You are ada.");
    bob.wait("standing", "You are bob.");
    // Each is told of the own letter, and of nobody else's.
    ada.wait("events", "own letter_ada ada");
    bob.wait("events", "own letter_bob bob");
    assert!(!ada.text("live").contains("letter_bob") && !ada.text("events").contains("letter_bob"));

    // A click on a zone walks there, and the other one sees it.
    click_at(&mut bob, [-0.5, -4.5]);
    ada.wait("events", "enter plate bob");
    // An arrow walks for as long as it is held.
    ada.hold("ArrowUp", 1.0);
    bob.wait("events", "exit landing ada");

    // A click on a thing chooses it; what is too far is told, and what is near is taken.
    click_at(&mut ada, [-6.0, 2.0]);
    ada.wait("chosen", "oats");
    press_button(&mut ada, "take");
    ada.wait("said", "oats: it is");
    press_button(&mut ada, "walk there");
    ada.wait("chosen", "at -6.00 0.35 2.00");
    std::thread::sleep(std::time::Duration::from_millis(1500));
    press_button(&mut ada, "take");
    bob.wait("events", "own oats ada");
    ada.wait("chosen", "belongs to ada");

    // Whoever has no token is asked for it.
    let mut eve = Browser::open("eve", &format!("http://{address}/?player=cay"));
    eve.wait("standing", "Not joined: the host asks for a token.");
    eve.wait("join", "Token");
    eve.ask("document.getElementById('token').value = 'tide'; document.getElementById('player').value = 'cay'; 1");
    press_button(&mut eve, "Join");
    eve.wait("standing", "You are cay.");
    // The host goes: the page says so and goes on asking.
    host.kill().unwrap();
    host.wait().unwrap();
    ada.wait("standing", "No line to the host");
}
