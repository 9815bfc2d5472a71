//! Lines by `WebSocket` (RFC 6455): messages in CBOR are binary ones, those in JSON texts. The same port may
//! give a page to browsers, from which they play.
//!
//! Neither end has a thread: both are asked again and again, each tick or oftener, and never wait.

use std::io::{self, ErrorKind};
use std::net::{SocketAddr, TcpListener, TcpStream, ToSocketAddrs};

use tungstenite::handshake::MidHandshake;
use tungstenite::handshake::server::{NoCallback, ServerHandshake};
use tungstenite::protocol::WebSocketConfig;
use tungstenite::{Error, HandshakeError, Message, WebSocket};

use crate::guest::Guest;
use crate::line::LineId;
use crate::message::Notation;
use crate::room::Room;
use crate::rules::MAX_TO_HOST;
use crate::visitor::{Visit, Visitor};

/// How often somebody may be asked before their handshake must be done.
const MAX_SHAKES: u32 = 600;
/// The most that may be about to open a line, or be given the page, at once.
const MAX_VISITORS: usize = 64;
/// The most messages that are taken from a line at once.
const MAX_AT_ONCE: usize = 64;
/// The longest message of a host, in bytes: the whole state of a large scene.
const MAX_TO_CLIENT: usize = 64 * 1024 * 1024;

/// Where clients come by.
///
/// ```
/// use hazuro::{Play, Scene, geometry::Shape, scene::{Body, Entity}};
/// use hazuro_link::{Client, Guest, Room, Rules, Standing, socket::{Connection, Server}};
/// let body = Body::new(Shape::Capsule { radius: 0.3, height: 1.8 }).walk(3.0);
/// let scene = Scene::builder("Yard").entity(Entity::new("ada").player(true).body(body)).build()?;
/// let mut room = Room::new(Play::new(scene.clone()), Rules::default());
/// let mut server = Server::listen("127.0.0.1:0")?;
///
/// let mut client = Client::new(scene);
/// let address = server.address()?;
/// let join = std::thread::spawn(move || {
///     let mut connection = Connection::open(address).unwrap();
///     while client.standing() == &Standing::Joining {
///         client.step();
///         connection.exchange(&mut client).unwrap();
///         std::thread::yield_now();
///     }
///     client.standing().clone()
/// });
/// while !join.is_finished() {
///     server.take(&mut room);
///     room.step();
///     server.send(&mut room);
///     std::thread::yield_now();
/// }
/// assert_eq!(join.join().unwrap(), Standing::Playing);
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Debug)]
pub struct Server {
    listener: TcpListener,
    page: Option<String>,
    visitors: Vec<Visitor>,
    shaking: Vec<(MidHandshake<ServerHandshake<TcpStream, NoCallback>>, u32)>,
    open: Vec<(LineId, WebSocket<TcpStream>)>,
}

fn bounds(longest: usize) -> WebSocketConfig {
    WebSocketConfig::default().max_message_size(Some(longest)).max_frame_size(Some(longest))
}

impl Server {
    /// Listens at an address, as `127.0.0.1:4646`; port 0 is any that is free.
    ///
    /// # Errors
    /// If nothing can listen there.
    pub fn listen(at: impl ToSocketAddrs) -> io::Result<Self> {
        let listener = TcpListener::bind(at)?;
        listener.set_nonblocking(true)?;
        let (visitors, shaking, open) = (Vec::new(), Vec::new(), Vec::new());
        Ok(Self { listener, page: None, visitors, shaking, open })
    }

    /// Gives this page, in HTML, to browsers that ask for it. What it needs must be in it.
    #[must_use]
    pub fn with_page(mut self, page: impl Into<String>) -> Self {
        self.page = Some(page.into());
        self
    }

    /// Where it listens.
    ///
    /// # Errors
    /// If the system cannot tell.
    pub fn address(&self) -> io::Result<SocketAddr> {
        self.listener.local_addr()
    }

    /// Takes in whoever comes, and gives the room what has come by their lines.
    pub fn take(&mut self, room: &mut Room) {
        while let Ok((stream, _)) = self.listener.accept() {
            // Without it, small messages wait for one another; a stream that cannot is used as it is.
            let _ = stream.set_nodelay(true);
            if stream.set_nonblocking(true).is_ok() && self.visitors.len() < MAX_VISITORS {
                self.visitors.push(Visitor::new(stream));
            }
        }
        for visitor in std::mem::take(&mut self.visitors) {
            match visitor.attend(self.page.as_deref()) {
                Visit::Stays(visitor) => self.visitors.push(visitor),
                Visit::Opens(stream) => {
                    let shaken = tungstenite::accept_with_config(stream, Some(bounds(MAX_TO_HOST)));
                    self.shaken(shaken, 0, room);
                }
                Visit::Over => {}
            }
        }
        for (handshake, times) in std::mem::take(&mut self.shaking) {
            if times < MAX_SHAKES {
                self.shaken(handshake.handshake(), times + 1, room);
            }
        }
        self.open.retain_mut(|(line, socket)| {
            for _ in 0..MAX_AT_ONCE {
                match socket.read() {
                    Ok(Message::Binary(bytes)) => room.receive(*line, &bytes),
                    Ok(Message::Text(text)) => room.receive(*line, text.as_bytes()),
                    Ok(_) => {}
                    Err(error) if is_later(&error) => break,
                    Err(_) => {
                        room.close(*line);
                        return false;
                    }
                }
            }
            true
        });
    }

    fn shaken(
        &mut self,
        outcome: Result<
            WebSocket<TcpStream>,
            HandshakeError<ServerHandshake<TcpStream, NoCallback>>,
        >,
        times: u32,
        room: &mut Room,
    ) {
        match outcome {
            Ok(socket) => self.open.push((room.open(true), socket)),
            Err(HandshakeError::Interrupted(handshake)) => self.shaking.push((handshake, times)),
            Err(HandshakeError::Failure(_)) => {}
        }
    }

    /// Sends what the room has to tell. A line that does not take as much is told less often.
    pub fn send(&mut self, room: &mut Room) {
        let told: Vec<(LineId, Vec<u8>)> = room.outgoing().collect();
        for (line, bytes) in told {
            if let Some((_, socket)) = self.open.iter_mut().find(|(it, _)| *it == line) {
                let message = match Notation::of(&bytes) {
                    Notation::Json => Message::text(String::from_utf8_lossy(&bytes).into_owned()),
                    Notation::Cbor => Message::binary(bytes),
                };
                // What does not go out is noticed below.
                let _ = socket.write(message);
            }
        }
        self.open.retain_mut(|(line, socket)| {
            let outcome = socket.flush();
            room.set_busy(*line, outcome.as_ref().is_err_and(is_later));
            if !room.is_open(*line) {
                // Closed by the host; that it is was the last that was told.
                let _ = socket.close(None);
                let _ = socket.flush();
                return false;
            }
            match outcome {
                Err(error) if !is_later(&error) => {
                    room.close(*line);
                    false
                }
                _ => true,
            }
        });
    }
}

/// Whether there is nothing to do for the moment.
fn is_later(error: &Error) -> bool {
    matches!(error, Error::Io(error) if error.kind() == ErrorKind::WouldBlock)
}

/// A client's end.
///
/// See [`Server`] for an example.
#[derive(Debug)]
pub struct Connection {
    socket: WebSocket<TcpStream>,
}

impl Connection {
    /// Opens a line to a host. Waits for it.
    ///
    /// # Errors
    /// If there is no host, or it does not speak WebSocket.
    pub fn open(to: impl ToSocketAddrs) -> io::Result<Self> {
        let stream = TcpStream::connect(to)?;
        let address = stream.peer_addr()?;
        stream.set_nodelay(true)?;
        let config = Some(bounds(MAX_TO_CLIENT));
        let shaken =
            tungstenite::client::client_with_config(format!("ws://{address}/"), stream, config);
        let (socket, _) = shaken.map_err(|error| io::Error::other(error.to_string()))?;
        socket.get_ref().set_nonblocking(true)?;
        Ok(Self { socket })
    }

    /// Sends what the client has to say, and gives it what has come.
    ///
    /// # Errors
    /// If the line has been cut.
    pub fn exchange(&mut self, client: &mut impl Guest) -> io::Result<()> {
        let cut = |error: Error| io::Error::new(ErrorKind::ConnectionAborted, error.to_string());
        for bytes in client.outgoing() {
            match self.socket.write(Message::Binary(bytes.into())) {
                Err(error) if !is_later(&error) => return Err(cut(error)),
                _ => {}
            }
        }
        match self.socket.flush() {
            Err(error) if !is_later(&error) => return Err(cut(error)),
            _ => {}
        }
        loop {
            match self.socket.read() {
                Ok(Message::Binary(bytes)) => client.receive(&bytes),
                Ok(_) => {}
                Err(error) if is_later(&error) => return Ok(()),
                Err(error) => return Err(cut(error)),
            }
        }
    }
}
