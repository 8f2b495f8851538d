//! The built binary, started for a test and killed at its end.

use std::io::{BufRead, BufReader};
use std::path::Path;
use std::process::{Child, Command, Stdio};

use rstest::fixture;
use serde_json::{Value, json};
use tempfile::TempDir;
use ureq::Agent;
use ureq::http::Response;

/// A server on a port of its own, on a data folder that the test keeps.
pub struct Served {
    child: Child,
    pub address: String,
    pub agent: Agent,
}

impl Drop for Served {
    fn drop(&mut self) {
        // SIGKILL: the server gets no chance to tidy up.
        let _ = self.child.kill();
        let _ = self.child.wait();
    }
}

pub fn serve(folder: &Path) -> Served {
    let mut child = Command::new(env!("CARGO_BIN_EXE_gritty-ember"))
        .args(["serve", "--listen", "127.0.0.1:0", "--demo", "--data"])
        .arg(folder)
        .stdout(Stdio::piped())
        .spawn()
        .unwrap();
    let mut line = String::new();
    BufReader::new(child.stdout.take().unwrap()).read_line(&mut line).unwrap();
    let address = line.trim().rsplit(' ').next().unwrap().to_owned();
    assert!(address.starts_with("http://127.0.0.1:"), "said {line:?}");
    let agent = Agent::config_builder().http_status_as_error(false).build().into();
    Served { child, address, agent }
}

/// A server with the folder that it runs on, which goes with it.
pub struct Workshop {
    pub server: Served,
    pub folder: TempDir,
}

#[fixture]
pub fn workshop() -> Workshop {
    let folder = TempDir::new().unwrap();
    Workshop { server: serve(folder.path()), folder }
}

impl Workshop {
    /// Sends bytes as they are.
    pub fn send(&self, path: &str, bytes: &[u8]) -> (u16, Value) {
        let request = self.server.agent.post(format!("{}{path}", self.server.address));
        read(request.header("content-type", "application/octet-stream").send(bytes).unwrap())
    }
}

impl Served {
    pub fn get(&self, path: &str) -> (u16, Value) {
        read(self.agent.get(format!("{}{path}", self.address)).call().unwrap())
    }

    pub fn post(&self, path: &str, body: &Value) -> (u16, Value) {
        read(self.agent.post(format!("{}{path}", self.address)).send_json(body).unwrap())
    }

    pub fn put(&self, path: &str, body: &Value) -> (u16, Value) {
        read(self.agent.put(format!("{}{path}", self.address)).send_json(body).unwrap())
    }

    pub fn note(&self, seen: u32, key: &str, text: &str) -> (u16, Value) {
        let entry = json!({"odometer_km": 6419, "author": "Ada", "finding": {"kind": "note", "text": text}});
        self.post("/api/jobs/2/entries", &json!({"seen": seen, "request_key": key, "entry": entry}))
    }
}

pub fn read(mut response: Response<ureq::Body>) -> (u16, Value) {
    let status = response.status().as_u16();
    let text = response.body_mut().read_to_string().unwrap();
    (status, serde_json::from_str(&text).unwrap_or(Value::String(text)))
}
