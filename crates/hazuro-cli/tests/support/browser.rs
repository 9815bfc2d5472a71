//! A real browser without a window, driven over its debugging port.

use std::io::{Read, Write};
use std::net::TcpStream;
use std::path::PathBuf;
use std::process::{Child, Command, Stdio};
use std::thread::sleep;
use std::time::{Duration, Instant};

use serde_json::{Value, json};
use tungstenite::{Message, WebSocket};

/// How long something may take to come about.
const PATIENCE: Duration = Duration::from_secs(20);

/// A browser with one page open.
pub struct Browser {
    child: Child,
    folder: PathBuf,
    socket: WebSocket<TcpStream>,
    calls: u64,
}

impl Browser {
    /// Opens an address in a browser of its own.
    pub fn open(name: &str, address: &str) -> Self {
        let folder = std::env::temp_dir().join(format!("hazuro_{name}_{}", std::process::id()));
        let _ = std::fs::remove_dir_all(&folder);
        let child = Command::new("chromium")
            .args(["--headless", "--no-sandbox", "--disable-gpu", "--no-first-run"])
            .args(["--disable-background-networking", "--disable-component-update"])
            .args(["--window-size=1280,800", "--remote-debugging-port=0"])
            .arg(format!("--user-data-dir={}", folder.display()))
            .arg("about:blank")
            .stdout(Stdio::null())
            .stderr(Stdio::null())
            .spawn()
            .expect("a Chromium");
        let port = until(|| {
            let told = std::fs::read_to_string(folder.join("DevToolsActivePort")).ok()?;
            told.lines().next()?.parse::<u16>().ok()
        });
        let mut stream = TcpStream::connect(("127.0.0.1", port)).unwrap();
        let request = format!("PUT /json/new?{address} HTTP/1.1\r\nHost: 127.0.0.1:{port}\r\n\r\n");
        stream.write_all(request.as_bytes()).unwrap();
        let mut answer = Vec::new();
        let told: Value = until(|| {
            let mut more = [0; 4096];
            let length = stream.read(&mut more).ok()?;
            answer.extend(&more[..length]);
            let body = answer.windows(4).position(|it| it == b"\r\n\r\n")? + 4;
            serde_json::from_slice(&answer[body..]).ok()
        });
        let debugger = told["webSocketDebuggerUrl"].as_str().unwrap();
        let stream = TcpStream::connect(("127.0.0.1", port)).unwrap();
        let (socket, _) = tungstenite::client(debugger, stream).unwrap();
        Self { child, folder, socket, calls: 0 }
    }

    fn call(&mut self, method: &str, params: &Value) -> Value {
        self.calls += 1;
        let message = json!({ "id": self.calls, "method": method, "params": params });
        self.socket.send(Message::text(message.to_string())).unwrap();
        loop {
            let Message::Text(text) = self.socket.read().unwrap() else { continue };
            let heard: Value = serde_json::from_str(&text).unwrap();
            if heard["id"] == self.calls {
                return heard["result"].clone();
            }
        }
    }

    /// What an expression in the page gives.
    pub fn ask(&mut self, expression: &str) -> Value {
        let params = json!({ "expression": expression, "returnByValue": true });
        let outcome = self.call("Runtime.evaluate", &params);
        assert!(outcome["exceptionDetails"].is_null(), "{expression}: {outcome}");
        outcome["result"]["value"].clone()
    }

    /// The text of something in the page.
    pub fn text(&mut self, id: &str) -> String {
        let text = self.ask(&format!("document.getElementById({id:?})?.innerText ?? \"\""));
        text.as_str().unwrap_or_default().to_owned()
    }

    /// Waits until something in the page says this.
    pub fn wait(&mut self, id: &str, words: &str) {
        let since = Instant::now();
        while !self.text(id).contains(words) {
            assert!(since.elapsed() < PATIENCE, "`{words}` never came; {id}: {}", self.text(id));
            sleep(Duration::from_millis(50));
        }
    }

    /// Clicks at a place of the window.
    pub fn click(&mut self, [x, y]: [f64; 2]) {
        for kind in ["mousePressed", "mouseReleased"] {
            let params = json!({ "type": kind, "x": x, "y": y, "button": "left", "clickCount": 1 });
            self.call("Input.dispatchMouseEvent", &params);
        }
    }

    /// Holds a key down for a while.
    pub fn hold(&mut self, key: &str, seconds: f64) {
        self.call("Input.dispatchKeyEvent", &json!({ "type": "keyDown", "code": key, "key": key }));
        sleep(Duration::from_secs_f64(seconds));
        self.call("Input.dispatchKeyEvent", &json!({ "type": "keyUp", "code": key, "key": key }));
    }
}

impl Drop for Browser {
    fn drop(&mut self) {
        let _ = self.child.kill();
        let _ = self.child.wait();
        let _ = std::fs::remove_dir_all(&self.folder);
    }
}

/// Waits until there is something.
fn until<T>(mut look: impl FnMut() -> Option<T>) -> T {
    let since = Instant::now();
    loop {
        if let Some(found) = look() {
            return found;
        }
        assert!(since.elapsed() < PATIENCE, "the browser does not answer");
        sleep(Duration::from_millis(50));
    }
}
