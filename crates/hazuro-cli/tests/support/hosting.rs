//! A host that runs while a test plays on it.

use std::io::{BufRead, BufReader, Read};
use std::process::{Child, Command, Stdio};

/// The command, started, with all its ends in the hands of the test.
pub fn started(arguments: &[&str]) -> Child {
    let mut command = Command::new(env!("CARGO_BIN_EXE_hazuro"));
    command.args(arguments).stdin(Stdio::piped()).stdout(Stdio::piped()).stderr(Stdio::piped());
    command.spawn().expect("it runs")
}

/// A host of a scene file that asks for the token `tide`, and where it listens.
pub fn host(file: &str) -> (Child, String) {
    let mut child = started(&["host", file, "--address", "127.0.0.1:0", "--token", "tide"]);
    let address = listening(&mut child);
    (child, address)
}

/// Where a host of ada, bob and maybe others listens, as it has printed.
pub fn listening(host: &mut Child) -> String {
    let (mut line, mut page) = (String::new(), String::new());
    let mut out = BufReader::new(host.stdout.take().unwrap());
    out.read_line(&mut line).unwrap();
    out.read_line(&mut page).unwrap();
    // What it prints later is read so that it never waits for it.
    std::thread::spawn(move || out.read_to_string(&mut String::new()));
    let address = line.split("listening at ").nth(1).unwrap().split(' ').next().unwrap();
    assert!(line.contains(" for ada, bob"), "{line}");
    assert!(page.starts_with(&format!("in a browser: http://{address}/")), "{page}");
    address.to_owned()
}
