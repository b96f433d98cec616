//! What an owner sets: from a file for the machine, a file of the user's, the environment. Each is declared
//! once, with what it means; each value says who set it.

use std::collections::BTreeMap;

use toml::de::DeValue;

use crate::{
    document::{File, FileError, Value, kind},
    finding::{LIMITS, Limits, Severity},
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
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Settings {
    /// What rules judge by.
    pub limits: Limits,
    /// From which severity on a check fails; `None` is never.
    pub fail_on: Option<Severity>,
    /// Files of expectations that every check holds machines against.
    pub expect: Vec<String>,
    set_by: BTreeMap<String, String>,
}

impl Default for Settings {
    fn default() -> Self {
        Self {
            limits: Limits::default(),
            fail_on: Some(Severity::Warning),
            expect: Vec::new(),
            set_by: BTreeMap::new(),
        }
    }
}

/// The settings of `[check]` beside its limits, with what each means.
const CHECK: [(&str, &str); 4] = [
    (
        "fail-on",
        "From which severity on a check exits with status 1: notice, warning, critical, never.",
    ),
    ("off", "Findings that are not looked for."),
    ("expect", "Files of expectations that every check holds machines against."),
    ("time-zone", "The time zone that every machine should have."),
];

/// The beginning of the names of environment variables.
const ENVIRONMENT: &str = "TECTUM_";

/// The name of a limit as it stands in a file.
fn limit_name(name: &str) -> String {
    name.replace('_', "-")
}

impl Settings {
    /// Takes over what a file says; `who` says whose it is.
    ///
    /// # Errors
    /// The first thing that is wrong, with its place.
    pub fn read(&mut self, name: &str, text: &str) -> Result<(), FileError> {
        let file = File { name, text };
        let table = file.parsed()?;
        let top = file.keys(table.get_ref(), &["check"])?;
        let Some(check) = top.get("check") else { return Ok(()) };
        let limits: Vec<String> = LIMITS.iter().map(|limit| limit_name(limit.name)).collect();
        let own = CHECK.iter().map(|(name, _)| *name);
        let known: Vec<&str> = own.chain(limits.iter().map(String::as_str)).collect();
        for (key, value) in file.keys(file.table(check)?, &known)? {
            let texts = texts(&file, value)?;
            self.set(key, &texts, name).map_err(|said| file.wrong(value.span(), said))?;
        }
        Ok(())
    }

    /// Takes over what the environment says: `TECTUM_CHECK_FAIL_ON=critical`. Lists have commas between. What
    /// begins with `TECTUM_CHECK_` and is no setting is an error.
    ///
    /// # Errors
    /// What is wrong, in words.
    pub fn read_environment(
        &mut self,
        variables: impl Iterator<Item = (String, String)>,
    ) -> Result<(), String> {
        for (variable, value) in variables {
            let Some(key) =
                variable.strip_prefix(ENVIRONMENT).and_then(|it| it.strip_prefix("CHECK_"))
            else {
                continue;
            };
            let key = key.to_ascii_lowercase().replace('_', "-");
            let texts: Vec<String> = match key.as_str() {
                "off" | "expect" => value.split(',').map(|it| it.trim().to_owned()).collect(),
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
            "fail-on" => {
                let word = one()?;
                self.fail_on = match word {
                    "never" => None,
                    word => Some(Severity::from_code(word).ok_or_else(|| {
                        format!("{word:?} is none of notice, warning, critical, never")
                    })?),
                };
            }
            "off" => {
                for id in texts {
                    self.limits.turn_off(id).map_err(|error| error.to_string())?;
                }
            }
            "expect" => self.expect = texts.to_vec(),
            "time-zone" => self.limits.time_zone = Some(one()?.to_owned()),
            key => {
                let limit = LIMITS.iter().find(|limit| limit_name(limit.name) == key);
                let Some(limit) = limit else {
                    let names: Vec<String> = self.all().into_iter().map(|it| it.name).collect();
                    let near =
                        nearest_name(&format!("check.{key}"), names.iter().map(String::as_str));
                    let near = near.map(|near| format!("; did you mean {near}?"));
                    return Err(format!(
                        "there is no setting check.{key}{}",
                        near.unwrap_or_default()
                    ));
                };
                let value = one()?;
                let number = value.parse().map_err(|_| format!("{value:?} is no whole number"))?;
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
        for (key, meaning) in CHECK {
            let value = match key {
                "fail-on" => format!("{:?}", self.fail_on.map_or("never", Severity::code)),
                "off" => quoted(&mut self.limits.off()),
                "expect" => quoted(&mut self.expect.iter().map(String::as_str)),
                _ => {
                    self.limits.time_zone.as_ref().map_or("not set".into(), |it| format!("{it:?}"))
                }
            };
            settings.push(self.setting(key, meaning, None, value));
        }
        for limit in LIMITS {
            let value = limit.of(&self.limits).to_string();
            let key = limit_name(limit.name);
            settings.push(self.setting(&key, limit.meaning.trim(), Some(limit.unit), value));
        }
        settings
    }

    fn setting(
        &self,
        key: &str,
        meaning: &'static str,
        unit: Option<&'static str>,
        value: String,
    ) -> Setting {
        let set_by = self.set_by.get(key).cloned();
        Setting { name: format!("check.{key}"), meaning, unit, value, set_by }
    }
}

/// A value or several, as texts.
fn texts(file: &File<'_>, value: &Value<'_>) -> Result<Vec<String>, FileError> {
    match value.get_ref() {
        DeValue::Array(all) => all.iter().map(|one| file.scalar(one)).collect(),
        DeValue::Table(_) => {
            Err(file.wrong(value.span(), format!("{} is no value", kind(value.get_ref()))))
        }
        _ => Ok(vec![file.scalar(value)?]),
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
    #[case("[check]\nfilesystem-full-percent = 9.5\n", "no whole number")]
    #[case("[check]\noff = 'disk-wram'\n", "did you mean disk-warm?")]
    #[case("[check]\ntime-zone = ['a', 'b']\n", "a single value")]
    #[case("[check]\noff = { a = 1 }\n", "a table is no value")]
    fn a_mistake_is_told_with_its_place(#[case] text: &str, #[case] said: &str) {
        let mut settings = Settings::default();
        let error = settings.read("x.toml", text).unwrap_err();
        assert!(error.said.contains(said), "{error}");
        assert!(error.line > 0);
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
            let key = setting.name.strip_prefix("check.").unwrap();
            let mut settings = Settings::default();
            settings.read("x.toml", &format!("[check]\n{key} = {}\n", setting.value)).unwrap();
            assert_eq!((&settings.limits, settings.fail_on), (&usual.limits, usual.fail_on));
        }
    }
}
