//! Which machine it is: by what makes it itself, never by its host name.

use ring::digest::{Context, SHA256};
use serde::{Deserialize, Serialize};
use tectum_report::{fact::Fact, model::Machine};

/// What says which machine was looked at.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct Who {
    /// Its host name, which is no identity; in a report it is called otherwise.
    #[serde(default, alias = "hostname", skip_serializing_if = "Option::is_none")]
    pub host: Option<String>,
    /// The system's UUID (SMBIOS type 1), which only root may read.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub system_uuid: Option<String>,
    /// The system's serial number, which only root may read.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub serial: Option<String>,
    /// The installation's id (machine-id(5)).
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub machine_id: Option<String>,
}

/// Whether two looks were at one machine.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Same {
    /// They were.
    Yes,
    /// They were not.
    No,
    /// Nothing that both know says so.
    Unknown,
}

impl Who {
    /// What a report says.
    pub fn of(machine: &Machine) -> Self {
        fn text<T: ToString>(fact: &Fact<T>) -> Option<String> {
            fact.value().map(ToString::to_string).filter(|text| !text.is_empty())
        }
        Self {
            host: text(&machine.hostname),
            system_uuid: text(&machine.system_uuid),
            serial: text(&machine.serial),
            machine_id: text(&machine.machine_id),
        }
    }

    /// Whether anything says which machine it is.
    pub fn is_known(&self) -> bool {
        self.identity().iter().any(|(_, text)| text.is_some())
    }

    /// What makes it itself, the surest first, each with what it is called.
    pub fn identity(&self) -> [(&'static str, Option<&str>); 3] {
        [
            ("system UUID", self.system_uuid.as_deref()),
            ("serial number", self.serial.as_deref()),
            ("machine id", self.machine_id.as_deref()),
        ]
    }

    /// Whether both are one machine: the surest that both know decides. One UUID with two serial numbers is
    /// two machines, whose maker gave the UUID twice.
    pub fn same(&self, other: &Self) -> Same {
        let differ = |a: &Option<String>, b: &Option<String>| a.is_some() && b.is_some() && a != b;
        for ((_, own), (_, others)) in self.identity().into_iter().zip(other.identity()) {
            let (Some(own), Some(others)) = (own, others) else { continue };
            let doubled = own == others && differ(&self.serial, &other.serial);
            return if own == others && !doubled { Same::Yes } else { Same::No };
        }
        Same::Unknown
    }

    /// Takes over what a later look knows.
    pub fn learn(&mut self, later: &Self) {
        let take = |own: &mut Option<String>, new: &Option<String>| {
            if new.is_some() {
                own.clone_from(new);
            }
        };
        take(&mut self.host, &later.host);
        take(&mut self.system_uuid, &later.system_uuid);
        take(&mut self.serial, &later.serial);
        take(&mut self.machine_id, &later.machine_id);
    }

    /// A new machine's key: its name for people, and what tells it from others of that name.
    pub fn key(&self) -> String {
        let mut digest = Context::new(&SHA256);
        for (kind, text) in self.identity() {
            digest.update(format!("{kind}\0{}\0", text.unwrap_or_default()).as_bytes());
        }
        let number = hex::encode(digest.finish());
        let number = number.get(..12).unwrap_or_default();
        let host = self.host.as_deref().unwrap_or("machine");
        let plain: String = host
            .chars()
            .map(|c| if c.is_ascii_alphanumeric() { c.to_ascii_lowercase() } else { '-' })
            .take(40)
            .collect();
        let plain = plain.trim_matches('-');
        format!("{}-{number}", if plain.is_empty() { "machine" } else { plain })
    }
}

/// Which of the machines that are known a look was at.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Belongs {
    /// This one.
    To(String),
    /// None of them.
    ToNone,
    /// It could be any of these.
    ToSeveral(Vec<String>),
}

/// Finds the machine that a look was at.
pub fn belongs<'a>(who: &Who, known: impl IntoIterator<Item = (&'a str, &'a Who)>) -> Belongs {
    let mut found: Vec<String> = known
        .into_iter()
        .filter(|(_, own)| own.same(who) == Same::Yes)
        .map(|(key, _)| key.to_owned())
        .collect();
    match (found.pop(), found.is_empty()) {
        (None, _) => Belongs::ToNone,
        (Some(one), true) => Belongs::To(one),
        (Some(one), false) => {
            found.push(one);
            found.sort();
            Belongs::ToSeveral(found)
        }
    }
}

/// A valid machine key: it is the name of a folder.
pub fn is_key(text: &str) -> bool {
    let plain = |c: u8| c.is_ascii_lowercase() || c.is_ascii_digit() || c == b'-';
    let number = text.rsplit_once('-').map(|(_, number)| number);
    text.bytes().all(plain)
        && !text.starts_with('-')
        && text.len() <= 64
        && number.is_some_and(|number| {
            number.len() == 12 && number.bytes().all(|byte| byte.is_ascii_hexdigit())
        })
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    fn who(uuid: &str, serial: &str, id: &str) -> Who {
        let some = |text: &str| (!text.is_empty()).then(|| text.to_owned());
        Who { host: None, system_uuid: some(uuid), serial: some(serial), machine_id: some(id) }
    }

    #[rstest]
    #[case::the_same(who("u", "s", "m"), who("u", "s", "m"), Same::Yes)]
    #[case::installed_anew(who("u", "s", "m"), who("u", "s", "n"), Same::Yes)]
    #[case::a_uuid_given_twice(who("u", "s", "m"), who("u", "t", "m"), Same::No)]
    #[case::a_clone(who("u", "s", "m"), who("v", "s", "m"), Same::No)]
    #[case::looked_at_without_root(who("u", "s", "m"), who("", "", "m"), Same::Yes)]
    #[case::nothing_in_common(who("u", "", ""), who("", "", "m"), Same::Unknown)]
    fn what_both_know_decides(#[case] a: Who, #[case] b: Who, #[case] expected: Same) {
        assert_eq!((a.same(&b), b.same(&a)), (expected, expected));
    }

    #[test]
    fn a_look_that_fits_two_machines_is_given_to_neither() {
        let (a, b) = (who("u", "s", "m"), who("v", "t", "m"));
        let known = [("a", &a), ("b", &b)];
        assert_eq!(
            belongs(&who("", "", "m"), known),
            Belongs::ToSeveral(vec!["a".into(), "b".into()])
        );
        assert_eq!(belongs(&who("v", "", "m"), known), Belongs::To("b".into()));
        assert_eq!(belongs(&who("w", "", ""), known), Belongs::ToNone);
    }

    #[rstest]
    #[case("Gannet.skerry", "gannet-skerry-")]
    #[case("../../etc", "etc-")]
    #[case("", "machine-")]
    fn a_key_is_a_plain_name(#[case] host: &str, #[case] begins: &str) {
        let who = Who { host: Some(host.into()), ..who("u", "s", "m") };
        let key = who.key();
        assert!(key.starts_with(begins) && is_key(&key), "{key}");
        assert!(!is_key("../x-0123456789ab") && !is_key("gannet"));
    }
}
