//! Who knocks at a host's port with a request: a browser that wants the page, and others.

use std::io::{Read, Write};
use std::net::{SocketAddr, TcpStream};
use std::thread::{self, JoinHandle};
use std::time::Duration;

use hazuro::Play;
use hazuro_link::socket::{Connection, Server};
use hazuro_link::{Guest, Room, Rules, Standing, Viewer};

use crate::desk::yard;

/// Hosts the yard while something is done from elsewhere, and gives what that gives.
fn hosted<T: Send + 'static>(
    page: Option<&str>,
    visit: impl FnOnce(SocketAddr) -> T + Send + 'static,
) -> T {
    let mut room = Room::new(Play::new(yard()), Rules::default());
    let mut server = Server::listen("127.0.0.1:0").unwrap();
    if let Some(page) = page {
        server = server.with_page(page);
    }
    let address = server.address().unwrap();
    let visitor: JoinHandle<T> = thread::spawn(move || visit(address));
    while !visitor.is_finished() {
        server.take(&mut room);
        room.step();
        server.send(&mut room);
        thread::sleep(Duration::from_millis(1));
    }
    visitor.join().unwrap()
}

/// Sends a request as it is, and reads the answer to its end.
fn ask(host: SocketAddr, request: &str) -> String {
    let mut stream = TcpStream::connect(host).unwrap();
    stream.write_all(request.as_bytes()).unwrap();
    let mut answer = String::new();
    // A host that closes while something is still unread cuts the line; what has come is there.
    let _ = stream.read_to_string(&mut answer);
    answer
}

fn status(answer: &str) -> &str {
    answer.lines().next().unwrap_or("nothing")
}

#[test]
fn a_browser_is_given_the_page_whole() {
    // Longer than what a socket takes at once.
    let page = format!("<!DOCTYPE html><p>{}</p>", "tide ".repeat(1_000_000));
    let given = page.clone();
    let answer =
        hosted(Some(&given), |host| ask(host, "GET /?token=tide HTTP/1.1\r\nHost: x\r\n\r\n"));
    let (head, body) = answer.split_once("\r\n\r\n").unwrap();
    assert_eq!(status(head), "HTTP/1.1 200 OK");
    assert!(head.contains("Content-Type: text/html; charset=utf-8"), "{head}");
    assert!(head.contains(&format!("Content-Length: {}", page.len())), "{head}");
    assert!(head.contains("Content-Security-Policy: default-src 'none'"), "{head}");
    assert!(body == page, "{} of {} bytes", body.len(), page.len());
}

#[test]
fn what_there_is_not_is_refused_with_a_status() {
    let cases = [
        ("GET /x HTTP/1.1\r\nHost: x\r\n\r\n", "404 Not Found"),
        ("POST / HTTP/1.1\r\nHost: x\r\n\r\n", "405 Method Not Allowed"),
        ("tide\r\n\r\n", "400 Bad Request"),
        // A page of somebody else that opens a line in the name of whoever looks at it.
        (
            "GET / HTTP/1.1\r\nHost: mill\r\nOrigin: http://elsewhere\r\nConnection: Upgrade\r\n\
             Upgrade: websocket\r\n\r\n",
            "403 Forbidden",
        ),
    ];
    let answers = hosted(Some("page"), move |host| cases.map(|(request, _)| ask(host, request)));
    for ((request, wanted), answer) in cases.iter().zip(&answers) {
        assert_eq!(status(answer), format!("HTTP/1.1 {wanted}"), "{request}");
    }
    let none = hosted(None, |host| ask(host, "GET / HTTP/1.1\r\nHost: x\r\n\r\n"));
    assert_eq!(status(&none), "HTTP/1.1 404 Not Found", "a host without a page");
    let long = format!("GET / HTTP/1.1\r\nHost: {}\r\n", "x".repeat(9000));
    let long = hosted(Some("page"), move |host| ask(host, &long));
    assert!(matches!(status(&long), "HTTP/1.1 431 Request Header Fields Too Large" | "nothing"));
}

#[test]
fn who_says_nothing_or_half_of_it_keeps_nobody_from_playing() {
    let standing = hosted(Some("page"), |host| {
        let half: Vec<TcpStream> = (0..40)
            .map(|number| {
                let mut stream = TcpStream::connect(host).unwrap();
                if number % 2 == 0 {
                    stream.write_all(b"GET / HTT").unwrap();
                }
                stream
            })
            .collect();
        let mut viewer = Viewer::new();
        let mut connection = Connection::open(host).unwrap();
        while viewer.standing() == &Standing::Joining {
            viewer.step();
            connection.exchange(&mut viewer).unwrap();
            thread::sleep(Duration::from_millis(1));
        }
        drop(half);
        viewer.standing().clone()
    });
    assert_eq!(standing, Standing::Playing);
}
