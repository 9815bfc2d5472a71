#![no_main]

#[path = "../../crates/hazuro-verify/tests/fuzzed/bodies.rs"]
#[allow(dead_code)]
mod bodies;

libfuzzer_sys::fuzz_target!(|text: &str| bodies::messages(text));
