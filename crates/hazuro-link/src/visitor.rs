//! Who knocks at the port of a host: a client that opens a line, or a browser that asks for the page.

use std::io::{ErrorKind, Read, Write};
use std::net::{Shutdown, TcpStream};

/// How many times somebody is asked before they must have said what they want, or have taken it.
const MOST_TIMES: u32 = 600;
/// The longest request, in bytes.
const MOST_REQUEST: usize = 8 * 1024;
/// The most headers of a request.
const MOST_HEADERS: usize = 64;

/// What a browser is told beside the page: it holds all it needs, and its address may hold a token.
const HEADERS: &str = "Content-Security-Policy: default-src 'none'; script-src 'unsafe-inline'; style-src \
                       'unsafe-inline'; connect-src 'self'\r\nReferrer-Policy: no-referrer\r\n\
                       X-Content-Type-Options: nosniff\r\nCache-Control: no-store\r\nConnection: close\r\n";

/// What somebody wants.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Wish {
    /// More of it is still to come.
    Unknown,
    /// A line.
    Line,
    /// The page.
    Page,
    /// What there is not, with the status to answer.
    Other(&'static str),
}

/// Somebody who has not said yet what they want, or who is being answered.
#[derive(Debug)]
pub(crate) struct Visitor {
    stream: TcpStream,
    times: u32,
    answer: Option<Answer>,
}

/// What is sent to a browser, and how much of it has been.
#[derive(Debug)]
struct Answer {
    bytes: Vec<u8>,
    sent: usize,
}

/// What has become of a visitor.
#[derive(Debug)]
pub(crate) enum Visit {
    /// It goes on.
    Stays(Visitor),
    /// A line is to be opened; nothing of the request has been read.
    Opens(TcpStream),
    /// It is over.
    Over,
}

impl Visitor {
    pub fn new(stream: TcpStream) -> Self {
        Self { stream, times: 0, answer: None }
    }

    /// Goes on with it. Never waits.
    pub fn attend(mut self, page: Option<&str>) -> Visit {
        self.times += 1;
        if self.times > MOST_TIMES {
            return Visit::Over;
        }
        if self.answer.is_none() {
            let mut request = [0; MOST_REQUEST];
            let length = match self.stream.peek(&mut request) {
                Ok(0) => return Visit::Over,
                Ok(length) => length,
                Err(error) if error.kind() == ErrorKind::WouldBlock => return Visit::Stays(self),
                Err(_) => return Visit::Over,
            };
            let bytes = match wish(&request[..length]) {
                Wish::Unknown => return Visit::Stays(self),
                Wish::Line => return Visit::Opens(self.stream),
                Wish::Page => match page {
                    Some(page) => answer("200 OK", "text/html", page),
                    None => plain("404 Not Found"),
                },
                Wish::Other(status) => plain(status),
            };
            // Where something is left unread, what is sent may be lost.
            let _ = self.stream.read(&mut request);
            self.answer = Some(Answer { bytes, sent: 0 });
        }
        self.send()
    }

    fn send(mut self) -> Visit {
        let Some(answer) = &mut self.answer else { return Visit::Stays(self) };
        while answer.sent < answer.bytes.len() {
            match self.stream.write(&answer.bytes[answer.sent..]) {
                Ok(0) => return Visit::Over,
                Ok(more) => answer.sent += more,
                Err(error) if error.kind() == ErrorKind::WouldBlock => return Visit::Stays(self),
                Err(_) => return Visit::Over,
            }
        }
        // Whoever has left already has all they want.
        let _ = self.stream.shutdown(Shutdown::Write);
        Visit::Over
    }
}

fn answer(status: &str, sort: &str, body: &str) -> Vec<u8> {
    let length = body.len();
    format!(
        "HTTP/1.1 {status}\r\nContent-Type: {sort}; charset=utf-8\r\nContent-Length: {length}\r\n\
         {HEADERS}\r\n{body}"
    )
    .into_bytes()
}

/// An answer that says no more than its status.
fn plain(status: &str) -> Vec<u8> {
    answer(status, "text/plain", &format!("{status}\n"))
}

/// What a request wishes, as far as it has come.
fn wish(bytes: &[u8]) -> Wish {
    let mut headers = [httparse::EMPTY_HEADER; MOST_HEADERS];
    let mut request = httparse::Request::new(&mut headers);
    match request.parse(bytes) {
        Ok(httparse::Status::Complete(_)) => {}
        Ok(httparse::Status::Partial) if bytes.len() < MOST_REQUEST => return Wish::Unknown,
        Ok(httparse::Status::Partial) => return Wish::Other("431 Request Header Fields Too Large"),
        Err(_) => return Wish::Other("400 Bad Request"),
    }
    let header = |name: &str| {
        let mut found = request.headers.iter().filter(|it| it.name.eq_ignore_ascii_case(name));
        found.next().and_then(|it| std::str::from_utf8(it.value).ok())
    };
    if header("Upgrade").is_some_and(|to| to.eq_ignore_ascii_case("websocket")) {
        // A page of somebody else may not play for whoever looks at it.
        let own = |origin: &str| origin.split_once("://").map(|(_, host)| host) == header("Host");
        let is_own = header("Origin").is_none_or(own);
        return if is_own { Wish::Line } else { Wish::Other("403 Forbidden") };
    }
    let path = request.path.unwrap_or_default();
    match (request.method, path.split('?').next()) {
        (Some("GET"), Some("/")) => Wish::Page,
        (Some("GET"), _) => Wish::Other("404 Not Found"),
        _ => Wish::Other("405 Method Not Allowed"),
    }
}
