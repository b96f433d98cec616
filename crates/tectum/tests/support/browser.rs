//! A browser without a window, driven through a pipe (Chrome DevTools Protocol).

use std::{
    io::{BufRead, BufReader, Write},
    path::Path,
    process::{Child, ChildStdin, ChildStdout, Command, Stdio},
    time::Duration,
};

use serde_json::{Value, json};
use tempfile::TempDir;

/// A browser with one page.
pub struct Browser {
    child: Child,
    to: ChildStdin,
    from: BufReader<ChildStdout>,
    number: u64,
    session: Option<String>,
    /// What it told by itself.
    pub events: Vec<Value>,
    _profile: TempDir,
}

/// Names under which it is installed.
const NAMES: [&str; 3] = ["chromium", "chromium-browser", "google-chrome"];

impl Browser {
    /// Starts one; nothing where there is none. Where `TECTUM_NEEDS_CHROMIUM` is set there must be one.
    pub fn start() -> Option<Self> {
        let folders = std::env::var_os("PATH").unwrap_or_default();
        let found = std::env::split_paths(&folders)
            .flat_map(|folder| NAMES.map(|name| folder.join(name)))
            .find(|path| path.is_file());
        let Some(program) = found else {
            assert!(std::env::var_os("TECTUM_NEEDS_CHROMIUM").is_none(), "no browser is here");
            eprintln!("no browser is here: pages are not looked at");
            return None;
        };
        let profile = tempfile::tempdir().unwrap();
        // The browser reads what it is told from descriptor 3 and answers on 4.
        let line = "exec \"$@\" 3<&0 4>&1 </dev/null >/dev/null 2>&1";
        let mut child = Command::new("sh")
            .args(["-c", line, "sh"])
            .arg(program)
            .args(["--headless", "--no-sandbox", "--disable-gpu", "--remote-debugging-pipe"])
            .args(["--no-first-run", "--disable-background-networking", "--disable-sync"])
            .arg(format!("--user-data-dir={}", profile.path().display()))
            .arg("about:blank")
            .stdin(Stdio::piped())
            .stdout(Stdio::piped())
            .stderr(Stdio::null())
            .spawn()
            .unwrap();
        let to = child.stdin.take().unwrap();
        let from = BufReader::new(child.stdout.take().unwrap());
        // One that hangs is ended, and then the test fails instead of waiting for ever.
        let id = child.id().to_string();
        std::thread::spawn(move || {
            std::thread::sleep(Duration::from_secs(240));
            let _ = Command::new("kill").args(["-9", &id]).status();
        });
        let (number, session, events) = (0, None, Vec::new());
        let mut own = Self { child, to, from, number, session, events, _profile: profile };
        let target = own.call("Target.createTarget", json!({ "url": "about:blank" }));
        let id = target["targetId"].clone();
        let attached =
            own.call("Target.attachToTarget", json!({ "targetId": id, "flatten": true }));
        own.session = attached["sessionId"].as_str().map(str::to_owned);
        for domain in ["Page", "Runtime", "Network", "Log"] {
            own.call(&format!("{domain}.enable"), json!({}));
        }
        Some(own)
    }

    /// Asks for something and waits for the answer.
    pub fn call(&mut self, method: &str, params: Value) -> Value {
        self.number += 1;
        let mut message = json!({ "id": self.number, "method": method, "params": params });
        if let Some(session) = &self.session {
            message["sessionId"] = json!(session);
        }
        self.to.write_all(message.to_string().as_bytes()).unwrap();
        self.to.write_all(b"\0").unwrap();
        self.to.flush().unwrap();
        loop {
            let answer = self.read();
            if answer["id"] == json!(self.number) {
                assert!(answer.get("error").is_none(), "{method}: {answer}");
                return answer["result"].clone();
            }
            self.events.push(answer);
        }
    }

    fn read(&mut self) -> Value {
        let mut bytes = Vec::new();
        self.from.read_until(0, &mut bytes).unwrap();
        assert_eq!(bytes.pop(), Some(0), "the browser went away");
        serde_json::from_slice(&bytes).unwrap()
    }

    /// Opens a file and waits until it is there.
    pub fn open(&mut self, path: &Path) {
        self.events.clear();
        let url = format!("file://{}", path.display());
        self.call("Page.navigate", json!({ "url": url }));
        while !self.events.iter().any(|event| event["method"] == "Page.loadEventFired") {
            let event = self.read();
            self.events.push(event);
        }
    }

    /// What a line of script gives.
    pub fn evaluate(&mut self, script: &str) -> Value {
        let asked = json!({
            "expression": script, "awaitPromise": true, "returnByValue": true, "userGesture": true,
        });
        let answer = self.call("Runtime.evaluate", asked);
        assert!(answer.get("exceptionDetails").is_none(), "{script}: {answer}");
        answer["result"]["value"].clone()
    }

    /// Presses a key.
    pub fn press(&mut self, key: &str) {
        let text = match key {
            "Enter" => "\r",
            "Tab" | "Escape" => "",
            own => own,
        };
        let code = match key {
            "Enter" => 13,
            "Tab" => 9,
            "Escape" => 27,
            _ => 0,
        };
        for kind in ["keyDown", "keyUp"] {
            let mut event = json!({ "type": kind, "key": key, "windowsVirtualKeyCode": code });
            if kind == "keyDown" && !text.is_empty() {
                event["text"] = json!(text);
            }
            self.call("Input.dispatchKeyEvent", event);
        }
    }

    /// Types a text.
    pub fn write(&mut self, text: &str) {
        self.call("Input.insertText", json!({ "text": text }));
    }

    /// What went wrong on the page, and what it asked the network for.
    pub fn troubles(&self) -> Vec<String> {
        let told = self.events.iter().filter_map(|event| {
            let params = &event["params"];
            match event["method"].as_str()? {
                "Runtime.exceptionThrown" => Some(format!("thrown: {params}")),
                "Runtime.consoleAPICalled" => Some(format!("console: {params}")),
                "Log.entryAdded" => Some(format!("log: {params}")),
                "Network.requestWillBeSent" if params["type"] != "Document" => {
                    Some(format!("request: {}", params["request"]["url"]))
                }
                _ => None,
            }
        });
        told.collect()
    }
}

impl Drop for Browser {
    fn drop(&mut self) {
        let _ = self.child.kill();
        let _ = self.child.wait();
    }
}
