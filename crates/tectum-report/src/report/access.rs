//! What can be asked of a machine, and how an access can end.

use std::{borrow::Cow, fmt};

use serde::{Deserialize, Serialize};

use crate::leaf::codes;

codes! {
    /// What was asked of the machine.
    Operation {
        /// The bytes of a file.
        Read = "read",
        /// The names in a folder.
        List = "list",
        /// The path that a path leads to once all links are followed.
        Resolve = "resolve",
        /// The space of the filesystem a path lies on, statvfs(3).
        Statvfs = "statvfs",
        /// The names of the kernel and host, uname(2).
        Uname = "uname",
    }
}

/// How an access ended.
#[derive(Debug, Clone, PartialEq, Eq, Hash)]
pub enum Outcome {
    /// Answered in full.
    Done,
    /// Answered up to the size limit; there was more.
    Cut,
    /// There is nothing at the path.
    NotFound,
    /// The kernel's own filesystem (`/proc`, `/sys`) is not mounted where it would be, or something else lies
    /// over this part of it: that nothing is there says nothing of the machine.
    NotMounted,
    /// The kernel refused it to this user.
    PermissionDenied,
    /// Something else than a regular file stands where a file should be (or no folder where a
    /// folder should be).
    WrongKind,
    /// No answer within the deadline.
    TimedOut,
    /// The whole survey's time was up before this was asked.
    OutOfTime,
    /// This source cannot answer such a question: a folder makes no system calls.
    Unsupported,
    /// The capture was made without asking this, so it holds no answer.
    NotCaptured,
    /// The capture says that it holds an answer, and does not.
    Damaged,
    /// The capture was redacted, and this was left out of it.
    Withheld,
    /// The kernel answered with another error, by its name (`EIO`).
    Failed(Cow<'static, str>),
}

/// Every outcome but another error, with its code.
const CODES: [(Outcome, &str); 12] = [
    (Outcome::Done, "done"),
    (Outcome::Cut, "cut"),
    (Outcome::NotFound, "not-found"),
    (Outcome::NotMounted, "not-mounted"),
    (Outcome::PermissionDenied, "permission-denied"),
    (Outcome::WrongKind, "wrong-kind"),
    (Outcome::TimedOut, "timed-out"),
    (Outcome::OutOfTime, "out-of-time"),
    (Outcome::Unsupported, "unsupported"),
    (Outcome::NotCaptured, "not-captured"),
    (Outcome::Damaged, "damaged"),
    (Outcome::Withheld, "withheld"),
];

impl Outcome {
    /// The code used in reports and captures: a word, or an error's name (`EIO`).
    pub fn code(&self) -> &str {
        match self {
            Self::Failed(name) => name,
            plain => CODES.iter().find(|(one, _)| one == plain).map_or("", |(_, code)| code),
        }
    }

    /// The outcome that a code names; what is no code of these is the name of an error.
    pub fn from_code(code: &str) -> Self {
        let plain = CODES.into_iter().find(|(_, own)| *own == code);
        plain.map_or_else(|| Self::Failed(code.to_owned().into()), |(outcome, _)| outcome)
    }
}

impl fmt::Display for Outcome {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::Done => f.write_str("done"),
            Self::Cut => f.write_str("cut at the size limit"),
            Self::NotFound => f.write_str("not found"),
            Self::NotMounted => f.write_str("the kernel's own files are not mounted there"),
            Self::PermissionDenied => f.write_str("permission denied"),
            Self::WrongKind => f.write_str("not a regular file or folder"),
            Self::TimedOut => f.write_str("timed out"),
            Self::OutOfTime => f.write_str("not asked, the survey's time was up"),
            Self::Unsupported => f.write_str("this source makes no system calls"),
            Self::NotCaptured => f.write_str("not in the capture"),
            Self::Damaged => f.write_str("missing from the capture, which says it holds it"),
            Self::Withheld => f.write_str("withheld by redaction"),
            Self::Failed(name) => write!(f, "failed with {name}"),
        }
    }
}

impl Serialize for Outcome {
    fn serialize<S: serde::Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        serializer.serialize_str(self.code())
    }
}

impl<'de> Deserialize<'de> for Outcome {
    fn deserialize<D: serde::Deserializer<'de>>(deserializer: D) -> Result<Self, D::Error> {
        Ok(Self::from_code(&Cow::<'de, str>::deserialize(deserializer)?))
    }
}

impl schemars::JsonSchema for Outcome {
    fn schema_name() -> Cow<'static, str> {
        "Outcome".into()
    }

    fn json_schema(_: &mut schemars::SchemaGenerator) -> schemars::Schema {
        let codes: Vec<&str> = CODES.iter().map(|(_, code)| *code).collect();
        schemars::json_schema!({
            "type": "string",
            "description": "How an access ended: one of these codes, or the name of an error (`EIO`).",
            "examples": codes,
        })
    }
}
