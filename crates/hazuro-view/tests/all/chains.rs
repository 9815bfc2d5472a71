//! What an event came of, in the terminal and on a page.

use crate::console::{console, keys, shows};
use crate::support::demo;

use hazuro::Time;
use hazuro_view::Report;

#[test]
fn the_event_that_is_chosen_tells_what_it_came_of() {
    let mut console = console(demo("mill.playtest.toml"));
    keys(&mut console, "J");
    keys(&mut console, "3");
    keys(&mut console, "{enter}");
    assert!(shows(&mut console, "cue toll_paid"));
    assert!(!shows(&mut console, "← "), "only where one is chosen");
    keys(&mut console, "/toll_paid{enter}");
    keys(&mut console, "E");
    // The cue itself, which was sent by a reaction to what was collected on a walk.
    for told in ["`cue toll_paid` by action 2", "`collect token_4` by miller", "miller walks to"] {
        assert!(shows(&mut console, told), "{told}");
    }
}

#[test]
fn a_page_links_each_entry_to_what_it_came_of() {
    let loaded = demo("mill.playtest.toml");
    let page = Report::of(&loaded, Time::from_secs(5.0)).html();
    let line = page.lines().find(|line| line.contains("<td>toll_paid</td>")).expect("the cue");
    let from = line.split("href=\"#n").nth(1).and_then(|rest| rest.split('"').next()).unwrap();
    let cause = page.lines().find(|line| line.contains(&format!("id=\"n{from}\""))).unwrap();
    assert!(cause.contains("→ cue toll_paid"), "{cause}");
    // Of what the tape does, the line is told.
    let walk = page.lines().find(|line| line.contains("<td>token_1</td>")).expect("an enter");
    assert!(walk.contains(">line 8</td>"), "{walk}");
}
