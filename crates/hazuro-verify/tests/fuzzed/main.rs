//! The seeds of the fuzz targets, and all that they have found, as an ordinary test.

mod bodies;

use std::path::Path;

#[test]
fn whatever_a_text_holds_it_is_read_or_refused() {
    let seeds = Path::new(env!("CARGO_MANIFEST_DIR")).join("tests/fuzzed/seeds");
    for (name, body) in bodies::BODIES {
        let files = std::fs::read_dir(seeds.join(name)).expect("a folder of seeds");
        let mut count = 0;
        for file in files {
            let path = file.expect("a file").path();
            let bytes = std::fs::read(&path).expect("a seed");
            body(&String::from_utf8_lossy(&bytes));
            count += 1;
        }
        assert!(count >= 2, "{name} has seeds");
    }
}
