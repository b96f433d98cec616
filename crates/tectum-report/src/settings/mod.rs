//! What an owner sets: from a file for the machine, a file of the user's, the environment. Each is declared
//! once, with what it means; each value says who set it.

use std::collections::BTreeMap;

use toml::de::DeValue;

use crate::{
    document::{File, FileError, Value, kind},
    expectation::Groups,
    finding::{LIMITS, Limits, Severity, as_set},
    query::nearest_name,
};

/// A setting.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Setting {
    /// Its name, with the table that it stands in: `check.fail-on`.
    pub name: String,
    /// What it means.
    pub meaning: &'static str,
    /// The unit in which it counts, if it does.
    pub unit: Option<&'static str>,
    /// Its value, as it would stand in a file.
    pub value: String,
    /// Who set it; nothing where nobody did.
    pub set_by: Option<String>,
}

/// What is set.
#[derive(Debug, Clone)]
pub struct Settings {
    /// What rules judge by.
    pub limits: Limits,
    /// From which severity on a check fails; `None` is never.
    pub fail_on: Option<Severity>,
    /// Files of expectations that every check holds machines against.
    pub expect: Vec<String>,
    /// Where the archive is; nothing where its usual place is meant.
    pub archive: Option<String>,
    /// Whether what an archive writes into its folder is packed.
    pub archive_packed: bool,
    /// After how many hours without a look a machine is stale.
    pub stale_after_hours: u64,
    /// Groups of machines, which `@NAME` means wherever machines of the archive are named.
    pub groups: Groups,
    set_by: BTreeMap<String, String>,
    /// What files say of groups, as it stands there.
    said: BTreeMap<String, String>,
}

impl Default for Settings {
    fn default() -> Self {
        Self {
            limits: Limits::default(),
            fail_on: Some(Severity::Warning),
            expect: Vec::new(),
            archive: None,
            archive_packed: false,
            stale_after_hours: 48,
            groups: Groups::default(),
            set_by: BTreeMap::new(),
            said: BTreeMap::new(),
        }
    }
}

/// The settings beside the limits of rules, each with its table before it, with what it means and the unit in
/// which it counts.
const PLAIN: [(&str, &str, Option<&str>); 7] = [
    (
        "check.fail-on",
        "From which severity on a check exits with status 1: notice, warning, critical, never.",
        None,
    ),
    ("check.off", "Findings that are not looked for.", None),
    ("check.expect", "Files of expectations that every check holds machines against.", None),
    ("check.time-zone", "The time zone that every machine should have.", None),
    (
        "archive.location",
        "Where the archive is: a folder, or postgres://USER@HOST/DATABASE. As built in /var/lib/tectum for root, else tectum in the user's folder of data.",
        None,
    ),
    (
        "archive.packed",
        "Whether files in the folder of an archive are packed (zstd): a tenth of the room, and not to be read without unpacking.",
        None,
    ),
    ("archive.stale-after", "After how long without a look a machine is stale.", Some("hours")),
];

/// The settings whose values are texts.
const TEXTS: [&str; 5] = ["fail-on", "off", "expect", "time-zone", "location"];

/// The tables in which settings stand.
const TABLES: [&str; 2] = ["check", "archive"];

/// The beginning of the names of environment variables.
const ENVIRONMENT: &str = "TECTUM_";

/// The table of groups of machines.
const GROUPS: &str = "groups";

/// The name of a limit, with its table before it.
fn limit_name(name: &str) -> String {
    format!("check.{}", as_set(name))
}

/// The names of all settings.
fn names() -> Vec<String> {
    let plain = PLAIN.iter().map(|(name, ..)| (*name).to_owned());
    plain.chain(LIMITS.iter().map(|limit| limit_name(limit.name))).collect()
}

impl Settings {
    /// Takes over what a file says; `who` says whose it is.
    ///
    /// # Errors
    /// The first thing that is wrong, with its place.
    pub fn read(&mut self, name: &str, text: &str) -> Result<(), FileError> {
        let file = File { name, text };
        let table = file.parsed()?;
        let known: Vec<&str> = TABLES.into_iter().chain([GROUPS]).collect();
        let top = file.keys(table.get_ref(), &known)?;
        if let Some(groups) = top.get(GROUPS) {
            self.groups.read(&file, groups)?;
            for (group, value) in file.table(groups)? {
                let said: Vec<String> = file
                    .table(value)?
                    .iter()
                    .map(|(key, value)| {
                        let text = file.text.get(value.span()).unwrap_or_default();
                        format!("{} = {}", key.get_ref(), text.replace('\n', " "))
                    })
                    .collect();
                let setting = format!("{GROUPS}.{}", group.get_ref());
                self.said.insert(setting.clone(), format!("{{ {} }}", said.join(", ")));
                self.set_by.insert(setting, name.to_owned());
            }
        }
        let names = names();
        for table in TABLES {
            let Some(own) = top.get(table) else { continue };
            let known: Vec<&str> = names
                .iter()
                .filter_map(|name| name.strip_prefix(table)?.strip_prefix('.'))
                .collect();
            for (key, value) in file.keys(file.table(own)?, &known)? {
                let texts = texts(&file, value, TEXTS.contains(&key))?;
                self.set(&format!("{table}.{key}"), &texts, name)
                    .map_err(|said| file.wrong(value.span(), said))?;
            }
        }
        Ok(())
    }

    /// Takes over what the environment says: `TECTUM_CHECK_FAIL_ON=critical`. Lists have commas between. What
    /// begins with `TECTUM_` and the name of a table, and is no setting, is an error.
    ///
    /// # Errors
    /// What is wrong, in words.
    pub fn read_environment(
        &mut self,
        variables: impl Iterator<Item = (String, String)>,
    ) -> Result<(), String> {
        for (variable, value) in variables {
            let Some(key) = variable.strip_prefix(ENVIRONMENT) else { continue };
            let key = key.to_ascii_lowercase().replace('_', "-");
            let table = TABLES
                .iter()
                .find_map(|table| Some((*table, key.strip_prefix(table)?.strip_prefix('-')?)));
            let Some((table, key)) = table else { continue };
            let key = format!("{table}.{key}");
            let texts: Vec<String> = match key.as_str() {
                "check.off" | "check.expect" => {
                    value.split(',').map(|it| it.trim().to_owned()).collect()
                }
                _ => vec![value],
            };
            self.set(&key, &texts, &variable).map_err(|said| format!("{variable}: {said}"))?;
        }
        Ok(())
    }

    fn set(&mut self, key: &str, texts: &[String], who: &str) -> Result<(), String> {
        let one = || match texts {
            [one] => Ok(one.as_str()),
            _ => Err("it is a single value".to_owned()),
        };
        match key {
            "check.fail-on" => {
                let word = one()?;
                self.fail_on = match word {
                    "never" => None,
                    word => Some(Severity::from_code(word).ok_or_else(|| {
                        format!("{word:?} is none of notice, warning, critical, never")
                    })?),
                };
            }
            "check.off" => {
                for id in texts {
                    self.limits.turn_off(id).map_err(|error| error.to_string())?;
                }
            }
            "check.expect" => self.expect = texts.to_vec(),
            "check.time-zone" => self.limits.time_zone = Some(one()?.to_owned()),
            "archive.location" => {
                let location = one()?;
                if location.is_empty() {
                    return Err("an archive is somewhere: this is empty".to_owned());
                }
                self.archive = Some(location.to_owned());
            }
            "archive.packed" => {
                self.archive_packed = match one()? {
                    "true" | "yes" => true,
                    "false" | "no" => false,
                    other => return Err(format!("{other:?} is neither true nor false")),
                }
            }
            "archive.stale-after" => {
                let value = one()?;
                let hours = value.parse().ok().filter(|hours| *hours > 0);
                self.stale_after_hours = hours
                    .ok_or_else(|| format!("{value:?} is no whole number of hours from 1 up"))?;
            }
            key => {
                let limit = LIMITS.iter().find(|limit| limit_name(limit.name) == key);
                let Some(limit) = limit else {
                    let names = names();
                    let near = nearest_name(key, names.iter().map(String::as_str));
                    let near = near.map(|near| format!("; did you mean {near}?"));
                    return Err(format!("there is no setting {key}{}", near.unwrap_or_default()));
                };
                let value = one()?;
                let number = value
                    .parse()
                    .map_err(|_| format!("{value:?} is no whole number from 0 to {}", u64::MAX))?;
                self.limits.set(limit.name, number).map_err(|error| error.to_string())?;
            }
        }
        self.set_by.insert(key.to_owned(), who.to_owned());
        Ok(())
    }

    /// Every setting, with its value and who set it.
    pub fn all(&self) -> Vec<Setting> {
        let quoted = |all: &mut dyn Iterator<Item = &str>| {
            let all: Vec<String> = all.map(|it| format!("{it:?}")).collect();
            format!("[{}]", all.join(", "))
        };
        let mut settings: Vec<Setting> = Vec::new();
        let text = |value: &Option<String>| {
            value.as_ref().map_or("not set".to_owned(), |it| format!("{it:?}"))
        };
        for (name, meaning, unit) in PLAIN {
            let value = match name {
                "check.fail-on" => {
                    format!("{:?}", self.fail_on.map_or("never", Severity::code))
                }
                "check.off" => quoted(&mut self.limits.off()),
                "check.expect" => quoted(&mut self.expect.iter().map(String::as_str)),
                "check.time-zone" => text(&self.limits.time_zone),
                "archive.location" => text(&self.archive),
                "archive.packed" => self.archive_packed.to_string(),
                _ => self.stale_after_hours.to_string(),
            };
            settings.push(self.setting(name, meaning, unit, value));
        }
        for limit in LIMITS {
            let value = limit.of(&self.limits).to_string();
            let name = limit_name(limit.name);
            settings.push(self.setting(&name, limit.meaning.trim(), Some(limit.unit), value));
        }
        for (name, said) in &self.said {
            settings.push(self.setting(
                name,
                "A group of machines, by patterns of host names and by facts.",
                None,
                said.clone(),
            ));
        }
        settings
    }

    fn setting(
        &self,
        name: &str,
        meaning: &'static str,
        unit: Option<&'static str>,
        value: String,
    ) -> Setting {
        let set_by = self.set_by.get(name).cloned();
        Setting { name: name.to_owned(), meaning, unit, value, set_by }
    }
}

/// A value or several, as texts.
fn texts(file: &File<'_>, value: &Value<'_>, texts_alone: bool) -> Result<Vec<String>, FileError> {
    let scalar = |value: &Value<'_>| match value.get_ref() {
        DeValue::String(_) | DeValue::Array(_) | DeValue::Table(_) => file.scalar(value),
        other if texts_alone => {
            let said = format!("{} is no text: texts stand in quotation marks", kind(other));
            Err(file.wrong(value.span(), said))
        }
        _ => file.scalar(value),
    };
    match value.get_ref() {
        DeValue::Array(all) => all.iter().map(scalar).collect(),
        DeValue::Table(_) => {
            Err(file.wrong(value.span(), format!("{} is no value", kind(value.get_ref()))))
        }
        _ => Ok(vec![scalar(value)?]),
    }
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    fn of<'a>(all: &'a [Setting], name: &str) -> &'a Setting {
        all.iter().find(|it| it.name == name).unwrap()
    }

    #[test]
    fn the_nearest_says_and_each_says_who() {
        let mut settings = Settings::default();
        let machine =
            "[check]\nfail-on = 'critical'\nfilesystem-full-percent = 80\noff = ['disk-warm']\n";
        settings.read("/etc/tectum/tectum.toml", machine).unwrap();
        settings.read("user.toml", "[check]\nfilesystem-full-percent = 85\n").unwrap();
        let environment = [
            ("TECTUM_CHECK_FAIL_ON".to_owned(), "never".to_owned()),
            ("TECTUM_CHECK_OFF".to_owned(), "cpus-offline, cpus-differ".to_owned()),
            ("HOME".to_owned(), "/root".to_owned()),
        ];
        settings.read_environment(environment.into_iter()).unwrap();
        assert_eq!((settings.fail_on, settings.limits.filesystem_full_percent), (None, 85));
        let all = settings.all();
        let full = of(&all, "check.filesystem-full-percent");
        assert_eq!((full.value.as_str(), full.set_by.as_deref()), ("85", Some("user.toml")));
        assert_eq!(of(&all, "check.fail-on").set_by.as_deref(), Some("TECTUM_CHECK_FAIL_ON"));
        // Rules that are off stay off: a list of them is never a toggle.
        let off = of(&all, "check.off");
        assert_eq!(off.value, "[\"cpus-differ\", \"cpus-offline\", \"disk-warm\"]");
        assert_eq!(of(&all, "check.disk-warm-celsius").set_by, None);
    }

    #[rstest]
    #[case("[chekc]\n", "did you mean `check`?")]
    #[case("[check]\nfail-no = 'never'\n", "did you mean `fail-on`?")]
    #[case("[check]\nfail-on = 'often'\n", "none of notice")]
    #[case("[check]\nfilesystem-full-percent = 101\n", "between 1 and 100")]
    #[case("[check]\nfilesystem-full-percent = 9.5\n", "\"9.5\" is no whole number from 0 to")]
    #[case("[check]\nfilesystem-full-percent = -5\n", "\"-5\" is no whole number from 0 to")]
    #[case(
        "[check]\nfilesystem-full-percent = 0\n",
        "filesystem-full-percent is between 1 and 100"
    )]
    #[case("[check]\nfail-on = 3\n", "a number is no text")]
    #[case("[check]\noff = ['disk-warm', 7]\n", "a number is no text")]
    #[case("[check]\ntime-zone = true\n", "is no text")]
    #[case("[archive]\nlocation = 7\n", "a number is no text: texts stand in quotation marks")]
    #[case("[check]\noff = 'disk-wram'\n", "did you mean disk-warm?")]
    #[case("[check]\ntime-zone = ['a', 'b']\n", "a single value")]
    #[case("[check]\noff = { a = 1 }\n", "a table is no value")]
    #[case("[archive]\npacked = 'maybe'\n", "neither true nor false")]
    #[case("[archive]\nlocation = ''\n", "this is empty")]
    #[case("[archive]\nstale-after = 0\n", "from 1 up")]
    #[case("[archive]\nloction = '/srv'\n", "did you mean `location`?")]
    fn a_mistake_is_told_with_its_place(#[case] text: &str, #[case] said: &str) {
        let mut settings = Settings::default();
        let error = settings.read("x.toml", text).unwrap_err();
        assert!(error.said.contains(said), "{error}");
        assert!(error.line > 0);
    }

    #[test]
    fn groups_are_read_with_patterns_and_facts() {
        let mut settings = Settings::default();
        let text = "[groups.tide]\nhosts = ['tide-*']\n[groups.old]\nhosts = ['*']\nwhere = { path = 'firmware.version', equals = '2.1' }\n";
        settings.read("x.toml", text).unwrap();
        let tide = settings.groups.named("tide").unwrap();
        assert!(tide.fit("TIDE-1") && !tide.fit("gannet") && !tide.ask_for_facts());
        assert!(settings.groups.named("old").unwrap().ask_for_facts());
        assert!(
            settings
                .groups
                .named("tid")
                .unwrap_err()
                .to_string()
                .contains("did you mean \"tide\"?")
        );
        assert!(of(&settings.all(), "groups.tide").value.contains("tide-*"));
        let wrong = settings.read("x.toml", "[groups.x]\nhost = ['a']\n").unwrap_err();
        assert!(wrong.said.contains("did you mean `hosts`?"), "{wrong}");
    }

    #[test]
    fn a_variable_that_is_no_setting_is_an_error() {
        let wrong = [("TECTUM_CHECK_FAIL_NO".to_owned(), "never".to_owned())];
        let error = Settings::default().read_environment(wrong.into_iter()).unwrap_err();
        assert!(error.contains("did you mean check.fail-on?"), "{error}");
    }

    #[test]
    fn every_setting_can_be_set_to_what_it_is() {
        let usual = Settings::default();
        for setting in usual.all() {
            if setting.value == "not set" {
                continue;
            }
            let (table, key) = setting.name.split_once('.').unwrap();
            let mut settings = Settings::default();
            let text = format!("[{table}]\n{key} = {}\n", setting.value);
            settings.read("x.toml", &text).unwrap();
            let own = settings.all().into_iter().find(|it| it.name == setting.name).unwrap();
            assert_eq!((own.value, own.set_by.as_deref()), (setting.value, Some("x.toml")));
            assert_eq!((&settings.limits, settings.fail_on), (&usual.limits, usual.fail_on));
        }
    }
}
