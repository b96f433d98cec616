//! A PostgreSQL server of the tests' own, on a free port, gone when they end.

use std::{
    fs,
    net::TcpListener,
    os::unix::fs::{MetadataExt, PermissionsExt, chown},
    path::{Path, PathBuf},
    process::{Command, Stdio},
    sync::{
        OnceLock,
        atomic::{AtomicU32, Ordering},
    },
    thread,
    time::{Duration, Instant},
};

use postgres::{Client, NoTls};

/// Nobody: the server refuses to be root.
const NOBODY: u32 = 65_534;

/// A server.
pub struct Server {
    pub port: u16,
    pub folder: PathBuf,
}

/// With what a server says who it is: a certificate and its key, as PEM.
pub struct Certificate {
    pub certificate: String,
    pub key: String,
}

/// The server that all tests of a file share; nothing where this machine has none, and then that is said. With
/// `TECTUM_NEEDS_POSTGRES` set that is a failure.
pub fn server() -> Option<&'static Server> {
    static SERVER: OnceLock<Option<Server>> = OnceLock::new();
    SERVER.get_or_init(|| started(None)).as_ref()
}

/// A server that can encrypt.
pub fn encrypting_server(own: &Certificate) -> Option<Server> {
    started(Some(own))
}

fn started(own: Option<&Certificate>) -> Option<Server> {
    let Some(programs) = programs() else {
        let said = "not run: PostgreSQL's server is not on this machine (package postgresql)";
        assert!(std::env::var_os("TECTUM_NEEDS_POSTGRES").is_none(), "{said}");
        eprintln!("{said}");
        return None;
    };
    Some(start(&programs, own))
}

/// Where the server's programs are.
fn programs() -> Option<PathBuf> {
    let path = std::env::var_os("PATH").unwrap_or_default();
    let mut folders: Vec<PathBuf> = std::env::split_paths(&path).collect();
    // Debian keeps them beside each other by their version.
    if let Ok(versions) = fs::read_dir("/usr/lib/postgresql") {
        folders.extend(versions.flatten().map(|version| version.path().join("bin")));
    }
    folders.into_iter().find(|folder| {
        let there = |name: &str| fs::canonicalize(folder.join(name)).is_ok();
        there("initdb") && there("postgres")
    })
}

/// A program, as nobody where this is root, and ended when the thread that starts it ends.
fn program(programs: &Path, name: &str) -> Command {
    let mut command = Command::new("setpriv");
    command.arg("--pdeathsig=TERM");
    if rustix::process::geteuid().is_root() {
        let nobody = NOBODY.to_string();
        command.args([
            format!("--reuid={nobody}"),
            format!("--regid={nobody}"),
            "--clear-groups".into(),
        ]);
    }
    command.arg(fs::canonicalize(programs.join(name)).unwrap());
    command.env("LC_ALL", "C").env("TZ", "UTC").stdout(Stdio::null()).stderr(Stdio::null());
    command
}

fn start(programs: &Path, own: Option<&Certificate>) -> Server {
    // It is left to the system's own clearing up: the server may write to its end.
    let folder = tempfile::Builder::new().prefix("tectum-postgres-").tempdir().unwrap().keep();
    fs::set_permissions(&folder, fs::Permissions::from_mode(0o700)).unwrap();
    if fs::metadata(&folder).unwrap().uid() == 0 {
        chown(&folder, Some(NOBODY), Some(NOBODY)).unwrap();
    }
    let data = folder.join("data");
    let made = program(programs, "initdb")
        .args(["--username=tectum", "--auth=trust", "--encoding=UTF8", "--no-sync", "--pgdata"])
        .arg(&data)
        .current_dir(&folder)
        .status()
        .unwrap();
    assert!(made.success(), "initdb: {made}");
    let port = TcpListener::bind("127.0.0.1:0").unwrap().local_addr().unwrap().port();
    let mut settings = vec![
        "listen_addresses=127.0.0.1".to_owned(),
        "fsync=off".to_owned(),
        "max_connections=200".to_owned(),
    ];
    if let Some(Certificate { certificate, key }) = own {
        for (setting, name, text) in
            [("ssl_cert_file", "own.pem", certificate), ("ssl_key_file", "own.key", key)]
        {
            let path = folder.join(name);
            fs::write(&path, text).unwrap();
            fs::set_permissions(&path, fs::Permissions::from_mode(0o600)).unwrap();
            if rustix::process::geteuid().is_root() {
                chown(&path, Some(NOBODY), Some(NOBODY)).unwrap();
            }
            settings.push(format!("{setting}={}", path.display()));
        }
        settings.push("ssl=on".to_owned());
    }
    let (programs, own) = (programs.to_owned(), folder.clone());
    thread::spawn(move || {
        let mut running = program(&programs, "postgres")
            .arg("-D")
            .arg(&data)
            .args(["-p", &port.to_string(), "-k"])
            .arg(&own)
            .args(settings.iter().flat_map(|setting| ["-c", setting]))
            .current_dir(&own)
            .spawn()
            .unwrap();
        let _ = running.wait();
    });
    let server = Server { port, folder };
    let begun = Instant::now();
    while server.connect("postgres").is_err() {
        assert!(begun.elapsed() < Duration::from_secs(60), "the server does not answer");
        thread::sleep(Duration::from_millis(50));
    }
    server
}

impl Server {
    pub fn url(&self, database: &str) -> String {
        format!("postgres://tectum@127.0.0.1:{}/{database}", self.port)
    }

    pub fn connect(&self, database: &str) -> Result<Client, postgres::Error> {
        Client::connect(&format!("{}?sslmode=disable", self.url(database)), NoTls)
    }

    /// A new database; its URL.
    pub fn database(&self) -> String {
        static NUMBER: AtomicU32 = AtomicU32::new(0);
        let name = format!("archive_{}", NUMBER.fetch_add(1, Ordering::Relaxed));
        self.connect("postgres")
            .unwrap()
            .batch_execute(&format!("CREATE DATABASE {name}"))
            .unwrap();
        self.url(&name)
    }
}
