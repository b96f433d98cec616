use std::{
    ffi::CString,
    fs,
    io::Read,
    os::unix::fs::{PermissionsExt, symlink},
    process::Command,
};

use rstest::rstest;

use super::{
    step::planned::{Plan, plan, taken},
    *,
};

fn names(folder: &Path) -> Vec<String> {
    let names = fs::read_dir(folder).unwrap();
    let mut names: Vec<String> =
        names.map(|entry| entry.unwrap().file_name().into_string().unwrap()).collect();
    names.sort();
    names
}

fn save(path: &Path, text: &str) -> Result<Saved, SaveError> {
    write_whole(path, |to| to.write_all(text.as_bytes()))
}

fn save_pair(path: &Path, text: &str) -> Result<Saved, SaveError> {
    write_pair(path, ".sum", |to| {
        to.write_all(text.as_bytes())?;
        Ok(format!("sum of {text}").into_bytes())
    })
}

#[test]
fn a_failed_write_leaves_what_stood_there() {
    let folder = tempfile::tempdir().unwrap();
    let path = folder.path().join("report.json");
    save(&path, "first").unwrap();
    let error = write_whole(&path, |to| {
        to.write_all(b"half")?;
        Err(io::Error::other("broken off"))
    });
    assert_eq!(error.unwrap_err().doing, "writing");
    assert_eq!(fs::read(&path).unwrap(), b"first");
    assert_eq!(names(folder.path()), ["report.json"], "no temporary file stays");
    let mode = fs::metadata(&path).unwrap().permissions().mode();
    assert_eq!(mode & 0o777, 0o600);
}

/// A program that is killed while it writes leaves nothing behind: there is no file to see until the
/// whole is there.
#[test]
fn nothing_is_to_be_seen_while_it_is_written() {
    let folder = tempfile::tempdir().unwrap();
    let path = folder.path().join("report.json");
    write_whole(&path, |to| {
        to.write_all(b"half")?;
        assert_eq!(names(folder.path()).len(), 0);
        Ok(())
    })
    .unwrap();
    assert_eq!(names(folder.path()).len(), 1);
}

#[test]
fn a_device_is_written_into() {
    let before = fs::metadata("/dev/null").unwrap().permissions().mode();
    assert_eq!(save(Path::new("/dev/null"), "gone").unwrap(), Saved::Stream);
    assert_eq!(save_pair(Path::new("/dev/null"), "gone").unwrap(), Saved::Stream);
    assert_eq!(fs::metadata("/dev/null").unwrap().permissions().mode(), before);
    assert!(!Path::new("/dev/null.sum").exists(), "nothing is put beside a device");
}

#[test]
fn a_pipe_by_its_number_is_written_into() {
    let (mut reader, writer) = io::pipe().unwrap();
    let number = std::os::fd::AsRawFd::as_raw_fd(&writer);
    for path in [format!("/dev/fd/{number}"), format!("/proc/self/fd/{number}")] {
        assert_eq!(save(Path::new(&path), "through").unwrap(), Saved::Stream);
    }
    drop(writer);
    let mut text = String::new();
    reader.read_to_string(&mut text).unwrap();
    assert_eq!(text, "throughthrough");
}

/// What a shell has opened to append to is appended to.
#[test]
fn an_open_file_by_its_number_is_not_replaced() {
    let folder = tempfile::tempdir().unwrap();
    let path = folder.path().join("log");
    fs::write(&path, "before ").unwrap();
    let open = fs::File::options().append(true).open(&path).unwrap();
    let number = std::os::fd::AsRawFd::as_raw_fd(&open);
    assert_eq!(save(Path::new(&format!("/dev/fd/{number}")), "after").unwrap(), Saved::Stream);
    assert_eq!(fs::read_to_string(&path).unwrap(), "before after");
}

#[test]
fn a_fifo_that_nobody_reads_is_told() {
    let folder = tempfile::tempdir().unwrap();
    let path = folder.path().join("fifo");
    let name = CString::new(path.to_str().unwrap()).unwrap();
    rustix::fs::mknodat(CWD, &name, FileType::Fifo, Mode::RUSR | Mode::WUSR, 0).unwrap();
    let error = save(&path, "text").unwrap_err();
    assert!(error.cause.to_string().contains("nobody reads"), "{}", error.cause);
    let reader = fs::File::options().read(true).write(true).open(&path).unwrap();
    assert_eq!(save(&path, "text").unwrap(), Saved::Stream);
    let mut buffer = [0; 4];
    (&reader).read_exact(&mut buffer).unwrap();
    assert_eq!(&buffer, b"text");
}

use rustix::fs::{CWD, FileType};

#[test]
fn links_of_ones_own_are_written_through() {
    let folder = tempfile::tempdir().unwrap();
    let at = |name: &str| folder.path().join(name);
    fs::create_dir(at("deep")).unwrap();
    symlink("deep/report", at("link")).unwrap();
    symlink(at("link"), at("link to link")).unwrap();
    save(&at("link to link"), "dangling").unwrap();
    assert_eq!(fs::read_to_string(at("deep/report")).unwrap(), "dangling");
    save(&at("link"), "again").unwrap();
    assert_eq!(fs::read_to_string(at("deep/report")).unwrap(), "again");
    assert!(fs::symlink_metadata(at("link")).unwrap().is_symlink());
    symlink("round", at("round")).unwrap();
    assert_eq!(save(&at("round"), "x").unwrap_err().cause.raw_os_error(), Some(40));
}

#[rstest]
#[case("")]
#[case("/")]
#[case(".")]
#[case("/tmp/")]
fn a_folder_is_no_file(#[case] path: &str) {
    assert!(save(Path::new(path), "x").is_err(), "{path:?}");
}

#[test]
fn another_name_of_the_old_file_keeps_the_old() {
    let folder = tempfile::tempdir().unwrap();
    let (one, other) = (folder.path().join("one"), folder.path().join("other"));
    fs::write(&one, "old").unwrap();
    fs::hard_link(&one, &other).unwrap();
    save(&one, "new").unwrap();
    assert_eq!(fs::read_to_string(&other).unwrap(), "old");
    assert_eq!(fs::read_to_string(&one).unwrap(), "new");
}

/// As the kernel with `protected_symlinks`. Only root can make another user's link.
#[test]
fn another_users_link_in_anybodys_folder_is_not_followed() {
    if !rustix::process::geteuid().is_root() {
        // Said past the test runner, which would keep it to itself.
        writeln!(io::stderr(), "NOT SHOWN: links of other users need root").unwrap();
        return;
    }
    let folder = tempfile::tempdir().unwrap();
    let (open, closed) = (folder.path().join("open"), folder.path().join("closed"));
    fs::create_dir(&open).unwrap();
    fs::create_dir(&closed).unwrap();
    fs::set_permissions(&open, PermissionsExt::from_mode(0o1777)).unwrap();
    fs::write(closed.join("roots"), "precious").unwrap();
    let other = Some(rustix::fs::Uid::from_raw(65534));
    let flags = AtFlags::SYMLINK_NOFOLLOW;
    for (name, target) in [("file", closed.join("roots")), ("folder", closed.clone())] {
        symlink(target, open.join(name)).unwrap();
        rustix::fs::chownat(CWD, open.join(name), other, None, flags).unwrap();
    }
    for path in ["file", "folder/roots", "folder/new"] {
        let error = save(&open.join(path), "evil").unwrap_err();
        assert!(error.cause.to_string().contains("of user 65534"), "{}", error.cause);
    }
    assert_eq!(fs::read_to_string(closed.join("roots")).unwrap(), "precious");
    assert_eq!(names(&closed), ["roots"]);
    // In a folder that is not anybody's, and where the folder's owner made it, it is followed.
    fs::set_permissions(&open, PermissionsExt::from_mode(0o755)).unwrap();
    save(&open.join("file"), "followed").unwrap();
    fs::set_permissions(&open, PermissionsExt::from_mode(0o1777)).unwrap();
    rustix::fs::chownat(CWD, &open, other, None, AtFlags::empty()).unwrap();
    save(&open.join("file"), "followed again").unwrap();
    assert_eq!(fs::read_to_string(closed.join("roots")).unwrap(), "followed again");
}

/// Kinds of save: a new file, one in place of another, a pair in place of another.
#[derive(Debug, Clone, Copy)]
enum Kind {
    New,
    Again,
    Pair,
}

impl Kind {
    fn prepare(self, path: &Path) {
        match self {
            Self::New => {}
            Self::Again => drop(save(path, "old").unwrap()),
            Self::Pair => drop(save_pair(path, "old").unwrap()),
        }
    }

    fn run(self, path: &Path) -> Result<Saved, SaveError> {
        match self {
            Self::New | Self::Again => save(path, "new"),
            Self::Pair => save_pair(path, "new"),
        }
    }

    fn steps(self) -> usize {
        let folder = tempfile::tempdir().unwrap();
        let path = folder.path().join("report");
        self.prepare(&path);
        plan(Plan::Nothing);
        self.run(&path).unwrap();
        taken()
    }
}

/// Whatever happened: the old or the new, whole, and a second file only of the same writing.
#[track_caller]
fn nothing_is_mixed(kind: Kind, path: &Path, at: usize) {
    let text = fs::read_to_string(path).ok();
    let beside = path.with_file_name("report.sum");
    match (kind, text.as_deref()) {
        (Kind::New, None | Some("new")) => {}
        (Kind::Again | Kind::Pair, Some("old" | "new")) => {}
        other => panic!("step {at}: {other:?}"),
    }
    if let Ok(sum) = fs::read_to_string(beside) {
        assert_eq!(Some(sum), text.map(|text| format!("sum of {text}")), "step {at}");
    }
}

#[rstest]
fn a_failure_at_each_step_leaves_a_whole(#[values(Kind::New, Kind::Again, Kind::Pair)] kind: Kind) {
    let steps = kind.steps();
    assert!(steps >= 5, "{kind:?} has {steps}");
    for at in 0..steps {
        let folder = tempfile::tempdir().unwrap();
        let path = folder.path().join("report");
        kind.prepare(&path);
        plan(Plan::Fail(at));
        let ended = kind.run(&path);
        plan(Plan::Nothing);
        nothing_is_mixed(kind, &path, at);
        // Whether the folder's own entry is on the disk is more than some filesystems can say.
        assert!(ended.is_err() || at + 1 == steps, "step {at} of {kind:?} failed unnoticed");
        let left = names(folder.path()).into_iter().filter(|name| name.starts_with('.')).count();
        assert_eq!(left, 0, "step {at} of {kind:?} left a temporary file");
    }
}

const PLACE: &str = "TECTUM_TEST_KILLED_IN";

/// Not a test by itself: what the test below starts in a process of its own, to be ended there.
#[test]
#[ignore = "started by another test, to be ended there"]
fn is_killed_where_another_test_says() {
    let place = std::env::var(PLACE).expect("the test that starts this says where");
    let mut words = place.split('|');
    let path = PathBuf::from(words.next().unwrap());
    let kind = match words.next().unwrap() {
        "New" => Kind::New,
        "Again" => Kind::Again,
        _ => Kind::Pair,
    };
    plan(Plan::Kill(words.next().unwrap().parse().unwrap()));
    let _ = kind.run(&path);
}

#[rstest]
fn a_kill_before_each_step_leaves_a_whole_and_what_is_left_is_swept(
    #[values(Kind::New, Kind::Again, Kind::Pair)] kind: Kind,
) {
    for at in 0..kind.steps() {
        let folder = tempfile::tempdir().unwrap();
        let path = folder.path().join("report");
        kind.prepare(&path);
        let ended = Command::new(std::env::current_exe().unwrap())
            .args(["--exact", "--ignored", "save::tests::is_killed_where_another_test_says"])
            .env(PLACE, format!("{}|{kind:?}|{at}", path.display()))
            .output()
            .unwrap();
        assert_eq!(std::os::unix::process::ExitStatusExt::signal(&ended.status), Some(6));
        nothing_is_mixed(kind, &path, at);
        kind.run(&path).unwrap();
        assert_eq!(fs::read_to_string(&path).unwrap(), "new");
        let left = names(folder.path()).into_iter().filter(|name| name.starts_with('.')).count();
        assert_eq!(left, 0, "what a kill before step {at} of {kind:?} left was not swept");
    }
}

#[test]
fn what_another_writer_holds_is_not_swept() {
    let folder = tempfile::tempdir().unwrap();
    let held = folder.path().join(".tectum-1-0");
    let file = fs::File::create(&held).unwrap();
    rustix::fs::flock(&file, FlockOperation::NonBlockingLockExclusive).unwrap();
    fs::write(folder.path().join(".tectum-notes"), "mine").unwrap();
    save(&folder.path().join("report"), "x").unwrap();
    assert_eq!(names(folder.path()), [".tectum-1-0", ".tectum-notes", "report"]);
    drop(file);
    // A process that another test begins meanwhile holds the lock too, until it is another program.
    let swept = (0..200).any(|_| {
        save(&folder.path().join("report"), "x").unwrap();
        let swept = names(folder.path()) == [".tectum-notes", "report"];
        if !swept {
            thread::sleep(Duration::from_millis(10));
        }
        swept
    });
    assert!(swept, "{:?}", names(folder.path()));
}

/// Two writers at once: whoever is last, the pair is of one writing.
#[test]
fn pairs_of_two_writers_are_not_mixed() {
    let folder = tempfile::tempdir().unwrap();
    let path = folder.path().join("report");
    for _ in 0..20 {
        thread::scope(|scope| {
            for text in ["one", "other", "third"] {
                let path = &path;
                scope.spawn(move || save_pair(path, text).unwrap());
            }
        });
        let text = fs::read_to_string(&path).unwrap();
        let sum = fs::read_to_string(path.with_file_name("report.sum")).unwrap();
        assert_eq!(sum, format!("sum of {text}"));
    }
}
