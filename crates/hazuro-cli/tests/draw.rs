//! Pictures, timelines and pages from the command line.

mod support;

use support::{Folder, demo, hazuro, stderr, stdout};

#[test]
fn each_sort_of_file_is_written() {
    let folder = Folder::new("draw");
    let path = |name: &str| folder.0.join(name).display().to_string();
    let gate = demo("gate.playtest.toml");
    for (name, more, begins) in [
        ("top.svg", vec![], "<svg"),
        ("all.PNG", vec!["--view", "all", "--size", "640x400"], "\u{fffd}PNG"),
        ("line.svg", vec!["--view", "timeline", "--dark"], "<svg"),
        ("page.html", vec![], "<!DOCTYPE html>"),
        ("near.svg", vec!["--around", "sluice_pad", "--within", "4", "--at", "3"], "<svg"),
        ("only.svg", vec!["--only", "kind:person", "--until", "4"], "<svg"),
    ] {
        let file = path(name);
        let output = hazuro(&[&["draw", gate.as_str(), "-o", file.as_str()], &more[..]].concat());
        assert!(output.status.success(), "{name}: {}", stderr(&output));
        assert!(stdout(&output).starts_with(&file), "it says what it wrote");
        let bytes = std::fs::read(&file).expect("it was written");
        assert!(String::from_utf8_lossy(&bytes).starts_with(begins), "{name}");
        let again = folder.0.join("again").with_extension(name.rsplit('.').next().unwrap());
        let again = again.display().to_string();
        hazuro(&[&["draw", gate.as_str(), "-o", again.as_str()], &more[..]].concat());
        assert!(std::fs::read(again).unwrap() == bytes, "{name} is the same each time");
    }
    let text = std::fs::read_to_string(path("only.svg")).unwrap();
    assert!(text.contains("aria-label=\"miller\"") && !text.contains("aria-label=\"token_1\""));
    let text = std::fs::read_to_string(path("near.svg")).unwrap();
    assert!(text.contains("detects somebody") && text.contains("at 3.000 s"));
}

#[test]
fn what_is_asked_wrongly_is_told() {
    let gate = demo("gate.playtest.toml");
    let told = |arguments: &[&str], says: &str| {
        let output = hazuro(&[&["draw", gate.as_str()], arguments].concat());
        assert_eq!(output.status.code(), Some(2), "{arguments:?}");
        assert!(stderr(&output).contains(says), "{says:?} in {}", stderr(&output));
    };
    told(&["-o", "picture.gif"], "end its name with .svg, .png or .html");
    told(&["-o", "x.svg", "--around", "sluice_pd"], "did you mean `sluice_pad`?");
    told(&["-o", "x.svg", "--only", "kind:persn"], "did you mean `person`?");
    told(&["-o", "x.svg", "--size", "12"], "not a width and height such as 1280x800");
    told(&["-o", "x.svg", "--from", "5", "--until", "2"], "is before --from");
    told(&["-o", "no/such/folder/x.svg"], "cannot be written");
    told(&["-o", "x.svg", "--at", "1", "--until", "2"], "cannot be used with");
    told(&[], "--out");
}
