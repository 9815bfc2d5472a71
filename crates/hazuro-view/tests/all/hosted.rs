//! The page from which a hosted scene is played: what it says to somebody who has not even joined.

use crate::support;

use hazuro_view::hosted_page;
use support::{demo, scene};

#[test]
fn the_page_shows_the_map_and_says_nothing_of_secrets() {
    let page = hosted_page(&demo("quay.scene.toml"));
    assert!(page.starts_with("<!DOCTYPE html>"));
    for words in
        ["<h1>Quay</h1>", "plate", "barge", "rye", r#""players":["ada","bob","cay","dan"]"#]
    {
        assert!(page.contains(words), "{words}");
    }
    for secret in ["letter_ada", "letter_bob"] {
        assert!(!page.contains(secret), "{secret}");
    }
    // Only the host that it came from is asked, and for nothing but a line.
    let page = page.replace("http://www.w3.org/2000/svg", "");
    for word in ["http://", "https://", "src=", "@import", "url(http", "<link"] {
        assert!(!page.contains(word), "{word}");
    }
}

#[test]
fn what_comes_in_later_is_on_the_map_and_names_cannot_break_out() {
    let loaded = scene(
        r#"
        [scene]
        name = "</script><b>Yard"
        [kind.post]
        stock = 2
        solid = { box = [1, 1, 1] }
        [[entity]]
        name = "ada"
        player = true
        body = { capsule = { radius = 0.3, height = 1.8 } }
        [[entity]]
        name = "later<i>"
        solid = { box = [1, 1, 1] }
        at = [3, 0, 0]
        "#,
    );
    let page = hosted_page(&loaded);
    assert!(!page.contains("</script><b>") && !page.contains("<i>"));
    assert_eq!(page.matches("</script>").count(), page.matches("<script").count());
    // The two posts in stock, which are not in the play yet.
    assert!(page.contains("post#1") && page.contains("post#2"));
}
