//! Files as sections see them: contents that turn into facts with their evidence, refusals that
//! turn into gaps with their reason.

use crate::readers::sayings;
use std::{
    borrow::Cow, cell::RefCell, ffi::OsString, os::unix::ffi::OsStrExt, path::Path, sync::Arc,
};

use crate::{
    formats::{Line, assignment::Assignment, colon::Entry},
    source::{AccessError, Lease, Outcome, USUAL_LIMIT, bytes_text},
};
use tectum_report::{
    fact::{Evidence, Fact, Gap, Saying, Why, saying},
    leaf::Term,
};

/// Files that grow with the machine. The door remembers its first answer, so every section must ask
/// for as much of them as any other.
const LARGE: [&str; 8] = [
    "/proc/1/mountinfo",
    "/proc/cpuinfo",
    "/proc/net/fib_trie",
    "/proc/net/if_inet6",
    "/proc/net/ipv6_route",
    "/proc/net/route",
    "/proc/self/mountinfo",
    "/proc/stat",
];

/// The most that is read of a file.
fn limit(path: &Path) -> usize {
    let ends = |name: &str| path.file_name().is_some_and(|own| own == name);
    let long = ends("modules.alias") || ends("pci.ids") || ends("usb.ids");
    match long || LARGE.iter().any(|large| path == Path::new(large)) {
        true => 16 << 20,
        false => USUAL_LIMIT,
    }
}

/// A file that was asked for.
#[derive(Clone)]
pub(crate) struct File {
    path: Arc<str>,
    content: Result<Arc<[u8]>, Gap>,
    cut: bool,
    /// The line that was named as evidence last: one line gives several values.
    last: RefCell<Option<(usize, Arc<str>)>>,
}

impl File {
    pub(crate) fn read(lease: &Lease, path: impl AsRef<Path>) -> Self {
        let limit = limit(path.as_ref());
        Self::read_up_to(lease, path, limit)
    }

    pub(crate) fn read_up_to(lease: &Lease, path: impl AsRef<Path>, limit: usize) -> Self {
        let path = path.as_ref();
        match lease.read(path, limit) {
            Ok(content) => Self {
                path: bytes_text(path.as_os_str().as_bytes()).into(),
                content: Ok(content.bytes),
                cut: content.cut,
                last: RefCell::default(),
            },
            Err(error) => Self {
                path: Arc::clone(&error.path),
                content: Err(refused(&error)),
                cut: false,
                last: RefCell::default(),
            },
        }
    }

    /// The first bytes of a file, the rest of which is not asked for.
    pub(crate) fn read_head(lease: &Lease, path: impl AsRef<Path>, length: usize) -> Self {
        let path = path.as_ref();
        match lease.read_head(path, length) {
            Ok(content) => Self {
                path: bytes_text(path.as_os_str().as_bytes()).into(),
                content: Ok(content.bytes),
                cut: false,
                last: RefCell::default(),
            },
            Err(error) => Self {
                path: Arc::clone(&error.path),
                content: Err(refused(&error)),
                cut: false,
                last: RefCell::default(),
            },
        }
    }

    pub(crate) fn path(&self) -> &Arc<str> {
        &self.path
    }

    /// Why it could not be read, where it may well say something.
    pub(crate) fn hidden(&self) -> Option<&Gap> {
        self.bytes().err().filter(|gap| gap.why.hides_a_value())
    }

    /// The bytes, or why there are none.
    pub(crate) fn bytes(&self) -> Result<&Arc<[u8]>, &Gap> {
        self.content.as_ref()
    }

    /// The text; empty where there is none.
    pub(crate) fn text(&self) -> Cow<'_, str> {
        self.content.as_ref().map_or(Cow::Borrowed(""), |bytes| bytes_text(bytes))
    }

    /// Why a value that would stand in this file is missing.
    pub(crate) fn lacks(&self, what: &str) -> Gap {
        match &self.content {
            Err(gap) => gap.clone(),
            Ok(_) => Gap::new(Why::NotProvided).tried(
                Arc::clone(&self.path),
                saying!("does-not-say", "does not say {}").with(what.to_string()),
            ),
        }
    }

    /// Evidence that names the whole file.
    pub(crate) fn evidence(&self, rule: impl Into<Saying>) -> Evidence {
        Evidence::new(Arc::clone(&self.path), rule).raw(self.text().trim_end())
    }

    /// Evidence that names a line of the file.
    pub(crate) fn at_line(&self, line: Line<'_>, rule: impl Into<Saying>) -> Evidence {
        let mut last = self.last.borrow_mut();
        let raw = match &*last {
            Some((number, raw)) if *number == line.number && **raw == *line.raw => Arc::clone(raw),
            _ => Arc::from(line.raw),
        };
        *last = Some((line.number, Arc::clone(&raw)));
        Evidence::new(Arc::clone(&self.path), rule).line(line.number).raw_shared(&raw)
    }

    /// The fact that a file of a single value gives.
    pub(crate) fn fact<T>(
        &self,
        rule: impl Into<Saying>,
        parse: impl FnOnce(&str) -> Option<T>,
    ) -> Fact<T> {
        let gap = match &self.content {
            Err(gap) => return Fact::gap(gap.clone()),
            Ok(_) if self.cut => Gap::new(Why::Invalid).tried(
                Arc::clone(&self.path),
                saying!("longer-than-value-can", "is longer than a value can be"),
            ),
            Ok(_) => {
                let text = self.text();
                let trimmed = text.trim_matches(|c: char| c.is_whitespace() || c == '\0');
                match parse(trimmed) {
                    _ if trimmed.is_empty() => Gap::new(Why::Blank)
                        .tried(Arc::clone(&self.path), saying!("empty", "is empty")),
                    Some(value) => return Fact::known(value, self.evidence(rule)),
                    None => unusable(&self.path, trimmed),
                }
            }
        };
        Fact::gap(gap)
    }

    /// The text that a file of a single value gives; a filler text is a gap.
    pub(crate) fn text_fact<T: From<String>>(&self) -> Fact<T> {
        self.fact(sayings::FILE_TEXT_TRIMMED, |text| Some(text.to_owned()))
            .and_then(|text| meaningful(&text).map(T::from))
    }

    /// The NUMA node that a device is near to (`Documentation/ABI/testing/sysfs-bus-pci`).
    pub(crate) fn numa_node(&self) -> Fact<u64> {
        self.fact(sayings::NUMBER_1_NONE, crate::formats::number::signed).and_then(|node| {
            u64::try_from(node).map_err(|_| {
                Gap::new(Why::NotApplicable)
                    .hint(saying!("1-near-none", "-1 says that it is near to none"))
            })
        })
    }

    /// The fact that a line `key : value` gives.
    pub(crate) fn entry_fact<T>(
        &self,
        entry: Option<&Entry<'_>>,
        key: &str,
        rule: impl Into<Saying>,
        parse: impl FnOnce(&str) -> Option<T>,
    ) -> Fact<T> {
        match entry {
            None => Fact::gap(self.lacks(key)),
            Some(entry) => self.line_fact(entry.line, entry.value, rule, parse),
        }
    }

    /// The fact that a line `KEY=value` gives.
    pub(crate) fn assigned<T>(
        &self,
        all: &[Assignment<'_>],
        key: &str,
        rule: impl Into<Saying>,
        parse: impl FnOnce(&str) -> Option<T>,
    ) -> Fact<T> {
        match crate::formats::assignment::find(all, key) {
            None => Fact::gap(self.lacks(key)),
            Some(found) => self.line_fact(found.line, &found.value, rule, parse),
        }
    }

    fn line_fact<T>(
        &self,
        line: Line<'_>,
        value: &str,
        rule: impl Into<Saying>,
        parse: impl FnOnce(&str) -> Option<T>,
    ) -> Fact<T> {
        if value.is_empty() {
            let answer =
                saying!("line-no-value", "line {} has no value").with(line.number.to_string());
            return Fact::gap(Gap::new(Why::Blank).tried(Arc::clone(&self.path), answer));
        }
        match parse(value) {
            Some(known) => Fact::known(known, self.at_line(line, rule)),
            None => Fact::gap(unusable(&self.path, value)),
        }
    }
}

/// A value that is there and cannot be what it should be.
pub(crate) fn unusable(path: &Arc<str>, raw: &str) -> Gap {
    let shown = tectum_report::fact::clip(raw);
    Gap::new(Why::Invalid).raw(raw).tried(
        Arc::clone(path),
        saying!("holds-cannot-value", "holds {}, which cannot be the value")
            .with(format!("{:?}", shown)),
    )
}

/// A text that says something, or the gap for one that is empty or a filler.
pub(crate) fn meaningful(text: &str) -> Result<String, Gap> {
    let trimmed = text.trim();
    if trimmed.is_empty() || tectum_smbios::is_filler(trimmed) {
        return Err(Gap::new(Why::Blank).raw(text));
    }
    Ok(trimmed.to_owned())
}

/// The gap that a refusal at the door means.
pub(crate) fn refused(error: &AccessError) -> Gap {
    let (why, hint) = match &error.outcome {
        Outcome::PermissionDenied => (Why::Permission, Some(sayings::ROOT_CAN_READ)),
        Outcome::TimedOut => (
            Why::Timeout,
            Some(saying!(
                "longer-deadline-may-help",
                "a longer deadline may help; the source hung",
            )),
        ),
        Outcome::OutOfTime => (
            Why::Timeout,
            Some(saying!(
                "longer-time-limit-would-help",
                "a longer deadline for the survey would help",
            )),
        ),
        Outcome::WrongKind => (Why::Invalid, None),
        Outcome::Withheld => (Why::Withheld, None),
        Outcome::Unsupported => (
            Why::NotRead,
            Some(saying!("only-running-machine", "only the running machine can answer it")),
        ),
        Outcome::NotCaptured | Outcome::Damaged => (Why::NotRead, None),
        Outcome::NotMounted => (
            Why::NotRead,
            Some(saying!(
                "survey-outside-container",
                "survey outside of the container, or where /proc and /sys are mounted",
            )),
        ),
        Outcome::Failed(name) if !says_it_has_none(name) => (Why::NotRead, None),
        _ => (Why::NotProvided, None),
    };
    let gap = Gap::new(why).tried(Arc::clone(&error.path), outcome_answer(&error.outcome));
    match hint {
        Some(hint) => gap.hint(hint),
        None => gap,
    }
}

/// Whether a driver says by an error that it has no such value: it knows no such question (ENOSYS, 38; ENOTSUPP,
/// 524, which is of the kernel alone, `include/linux/errno.h`), has nothing to answer it with (ENOMEDIUM, 123), or
/// cannot answer it in the state that the device is in.
fn says_it_has_none(error: &str) -> bool {
    matches!(error, "EINVAL" | "EOPNOTSUPP" | "ENODATA" | "error 38" | "error 123" | "error 524")
}

/// What a source that gave nothing answered.
fn outcome_answer(outcome: &Outcome) -> Saying {
    match outcome {
        Outcome::Failed(name) => saying!("failed", "failed with {}").with(&**name),
        Outcome::Done => saying!("done", "done"),
        Outcome::Cut => saying!("cut", "cut at the size limit"),
        Outcome::NotFound => sayings::NOT_FOUND,
        Outcome::NotMounted => {
            saying!("not-mounted", "the kernel's own files are not mounted there")
        }
        Outcome::PermissionDenied => saying!("permission-denied", "permission denied"),
        Outcome::WrongKind => saying!("wrong-kind", "not a regular file or folder"),
        Outcome::TimedOut => saying!("timed-out", "timed out"),
        Outcome::OutOfTime => saying!("out-of-time", "not asked, the survey's time was up"),
        Outcome::Unsupported => saying!("unsupported", "this source makes no system calls"),
        Outcome::NotCaptured => saying!("not-captured", "not in the capture"),
        Outcome::Damaged => {
            saying!("damaged", "missing from the capture, which says it holds it")
        }
        Outcome::Withheld => saying!("withheld", "withheld by redaction"),
    }
}

/// The names in a folder, or why they are not known.
pub(crate) fn list(lease: &Lease, path: impl AsRef<Path>) -> Result<Arc<[OsString]>, Gap> {
    lease.list(path.as_ref()).map(|(names, _)| names).map_err(|error| refused(&error))
}

/// Looks, and says why some of it may not have been seen: the first answer meanwhile that hides something.
pub(crate) fn watched<T>(lease: &Lease, look: impl FnOnce(&Lease) -> T) -> (T, Option<Gap>) {
    let (found, refusals) = lease.watched(look);
    (found, refusals.iter().map(refused).find(|gap| gap.why.hides_a_value()))
}

/// The gap of something that is missing and may well be there.
pub(crate) fn hidden<T>(looked: &Result<T, Gap>) -> Option<&Gap> {
    looked.as_ref().err().filter(|gap| gap.why.hides_a_value())
}

/// The numbers behind a prefix in some names, in their order: 0, 2, 10 of `cpu10 cpu0 cpu2`.
pub(crate) fn numbered(names: &[OsString], prefix: &str) -> Vec<u64> {
    let mut numbers: Vec<u64> = names
        .iter()
        .filter_map(|name| {
            let digits = name.to_str()?.strip_prefix(prefix)?;
            let all = !digits.is_empty() && digits.bytes().all(|byte| byte.is_ascii_digit());
            all.then(|| digits.parse().ok()).flatten()
        })
        .collect();
    numbers.sort_unstable();
    numbers
}

/// Evidence that names a folder's listing.
pub(crate) fn listing_evidence(path: &str, rule: Saying) -> Evidence {
    Evidence::new(path.into(), rule).place("names in the folder")
}

/// The name of what a link leads to: the driver behind `driver`, the bus behind `subsystem`.
pub(crate) fn link_name(lease: &Lease, path: &str, rule: Saying) -> Fact<Term> {
    match lease.resolve(Path::new(path)) {
        Err(error) => Fact::gap(refused(&error)),
        Ok(target) => {
            let name = target.file_name().map(|name| bytes_text(name.as_bytes()).into_owned());
            match name {
                Some(name) => {
                    let raw = crate::source::path_text(&target);
                    Fact::known(
                        Term(name),
                        Evidence::new(path.into(), rule).place("link").raw(&raw),
                    )
                }
                None => Fact::gap(
                    Gap::new(Why::Invalid)
                        .tried(path.into(), saying!("leads-root", "leads to the root")),
                ),
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use rstest::rstest;
    use tectum_report::report::Operation;

    use super::*;

    /// What was not answered hides a value; what the machine answers that it has none of, does not.
    #[rstest]
    #[case(Outcome::NotFound, Why::NotProvided)]
    #[case(Outcome::Failed("EINVAL".into()), Why::NotProvided)]
    #[case(Outcome::Failed("error 524".into()), Why::NotProvided)]
    #[case(Outcome::Failed("EIO".into()), Why::NotRead)]
    #[case(Outcome::Failed("EBUSY".into()), Why::NotRead)]
    #[case(Outcome::NotMounted, Why::NotRead)]
    #[case(Outcome::NotCaptured, Why::NotRead)]
    #[case(Outcome::Damaged, Why::NotRead)]
    #[case(Outcome::Unsupported, Why::NotRead)]
    #[case(Outcome::PermissionDenied, Why::Permission)]
    #[case(Outcome::TimedOut, Why::Timeout)]
    #[case(Outcome::Withheld, Why::Withheld)]
    fn how_an_access_ended_is_why_a_value_is_missing(#[case] outcome: Outcome, #[case] why: Why) {
        let error = AccessError { operation: Operation::Read, path: "/sys/x".into(), outcome };
        let gap = refused(&error);
        assert_eq!((gap.why, gap.source.as_deref()), (why, Some("/sys/x")));
        assert_eq!(gap.tried.len(), 1);
    }
}
