//! Files that say where packages come from.
//!
//! Each parser gives what it can read, with the line at which it begins; what is commented out is
//! not there, what is switched off says so.

use tectum_report::{
    leaf::{Identifies, Redact},
    redact::Pseudonyms,
};

use super::{Line, line_by_line, lines};

/// A place that packages come from.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct Repository {
    /// What it is called, if the file names it.
    pub name: Option<String>,
    /// What kind of packages it holds, if the file says so.
    pub kind: Option<String>,
    /// Its addresses.
    pub uris: Vec<String>,
    /// Suites or distributions.
    pub suites: Vec<String>,
    /// Components.
    pub components: Vec<String>,
    /// Whether it is used.
    pub enabled: bool,
    /// Whether the file asks for signatures to be checked, or names the keys to check them by.
    pub checked: Option<bool>,
    /// The line at which it begins, from 1.
    pub line: usize,
    /// The lines that say all this, without the comments between them.
    pub raw: String,
}

impl Repository {
    fn at(line: Line<'_>) -> Self {
        Self::over(&[line])
    }

    fn over(lines: &[Line<'_>]) -> Self {
        Self {
            enabled: true,
            line: lines.first().map_or(0, |line| line.number),
            raw: lines.iter().map(|line| line.raw).collect::<Vec<_>>().join("\n"),
            ..Self::default()
        }
    }
}

fn words(text: &str) -> Vec<String> {
    text.split_whitespace().map(str::to_owned).collect()
}

/// `sources.list`: one repository a line (sources.list(5), one-line style).
pub fn apt_lines(text: &str) -> Vec<Repository> {
    lines(text).filter_map(apt_line).collect()
}

fn apt_line(line: Line<'_>) -> Option<Repository> {
    let body = line.raw.split('#').next().unwrap_or_default().trim();
    let (kind, rest) = body.split_once(char::is_whitespace)?;
    if !is_type(kind) {
        return None;
    }
    let rest = rest.trim_start();
    let (options, rest) = match rest.strip_prefix('[') {
        Some(inner) => inner.split_once(']')?,
        None => ("", rest),
    };
    let mut fields = rest.split_whitespace();
    let uri = fields.next()?;
    let suite = fields.next()?;
    let option = |name: &str| {
        options.split_whitespace().find_map(|option| {
            let (key, value) = option.split_once('=')?;
            (key == name).then_some(value)
        })
    };
    Some(Repository {
        kind: Some(kind.to_owned()),
        uris: vec![uri.to_owned()],
        suites: vec![suite.to_owned()],
        components: fields.map(str::to_owned).collect(),
        checked: match (option("trusted"), option("signed-by")) {
            (Some("yes"), _) => Some(false),
            (_, Some(_)) => Some(true),
            _ => None,
        },
        ..Repository::at(line)
    })
}

/// `*.sources`: one repository a stanza (sources.list(5), deb822 style). A stanza of several types
/// is one repository for each type.
pub fn apt_stanzas(text: &str) -> Vec<Repository> {
    let mut found = Vec::new();
    let mut fields: Vec<(String, String)> = Vec::new();
    let mut stanza: Vec<Line<'_>> = Vec::new();
    let end = Line { number: 0, raw: "" };
    for line in lines(text).chain([end]) {
        if line.raw.starts_with('#') {
            continue;
        }
        if line.raw.trim().is_empty() {
            found.extend(apt_stanza(&fields, &stanza));
            fields.clear();
            stanza.clear();
            continue;
        }
        stanza.push(line);
        if line.raw.starts_with([' ', '\t']) {
            if let Some((_, value)) = fields.last_mut() {
                value.push(' ');
                value.push_str(line.raw.trim());
            }
        } else if let Some((key, value)) = line.raw.split_once(':') {
            fields.push((key.trim().to_ascii_lowercase(), value.trim().to_owned()));
        }
    }
    found
}

fn apt_stanza(fields: &[(String, String)], stanza: &[Line<'_>]) -> Vec<Repository> {
    let field = |name: &str| {
        fields.iter().find(|(key, _)| key == name).map_or("", |(_, value)| value.as_str())
    };
    let repository = |kind: &str| Repository {
        kind: Some(kind.to_owned()),
        uris: words(field("uris")),
        suites: words(field("suites")),
        components: words(field("components")),
        enabled: !is_no(field("enabled")),
        checked: match (field("trusted"), field("signed-by")) {
            (trusted, _) if is_yes(trusted) => Some(false),
            (_, "") => None,
            _ => Some(true),
        },
        ..Repository::over(stanza)
    };
    field("types").split_whitespace().filter(|kind| is_type(kind)).map(repository).collect()
}

/// The types that there are (sources.list(5)).
fn is_type(text: &str) -> bool {
    matches!(text, "deb" | "deb-src")
}

fn is_no(text: &str) -> bool {
    matches!(text.to_ascii_lowercase().as_str(), "no" | "false" | "0" | "off" | "without")
}

fn is_yes(text: &str) -> bool {
    matches!(text.to_ascii_lowercase().as_str(), "yes" | "true" | "1" | "on" | "with")
}

/// A section of an INI file.
struct IniSection<'a> {
    name: &'a str,
    /// Its heading and the lines below it.
    lines: Vec<Line<'a>>,
    entries: Vec<(&'a str, String)>,
}

/// The sections of an INI file; an indented line goes on with the value before it.
fn ini(text: &str) -> Vec<IniSection<'_>> {
    let mut sections: Vec<IniSection<'_>> = Vec::new();
    for line in lines(text) {
        let body = line.raw.trim();
        if body.is_empty() || body.starts_with(['#', ';']) {
            continue;
        }
        if let Some(name) = body.strip_prefix('[').and_then(|rest| rest.strip_suffix(']')) {
            sections.push(IniSection { name, lines: vec![line], entries: Vec::new() });
            continue;
        }
        let Some(IniSection { lines, entries, .. }) = sections.last_mut() else { continue };
        lines.push(line);
        match body.split_once('=') {
            Some((key, value)) if !line.raw.starts_with([' ', '\t']) => {
                entries.push((key.trim(), value.trim().to_owned()));
            }
            _ => {
                if let Some((_, value)) = entries.last_mut() {
                    value.push(' ');
                    value.push_str(body);
                }
            }
        }
    }
    sections
}

/// `*.repo`: one repository a section (dnf.conf(5), zypper(8)).
pub fn repo_sections(text: &str) -> Vec<Repository> {
    ini(text)
        .into_iter()
        .filter(|section| section.name != "main")
        .map(|IniSection { name, lines, entries }| {
            let value = |key: &str| {
                entries.iter().rev().find(|(name, _)| *name == key).map(|(_, value)| value.as_str())
            };
            let addresses = ["baseurl", "metalink", "mirrorlist"];
            Repository {
                name: Some(name.to_owned()),
                uris: addresses.iter().filter_map(|key| value(key)).flat_map(words).collect(),
                enabled: !value("enabled").is_some_and(is_no),
                checked: value("gpgcheck").map(|check| !is_no(check)),
                ..Repository::over(&lines)
            }
        })
        .collect()
}

/// `pacman.conf`: one repository a section (pacman.conf(5)). `included` gives the text of a file
/// that a section includes.
pub fn pacman_sections(text: &str, mut included: impl FnMut(&str) -> String) -> Vec<Repository> {
    ini(text)
        .into_iter()
        .filter(|section| section.name != "options")
        .map(|IniSection { name, lines, entries }| {
            let mut uris = Vec::new();
            let mut checked = None;
            for (key, value) in &entries {
                match *key {
                    "Server" => uris.push(value.clone()),
                    "Include" => uris.extend(servers(&included(value))),
                    "SigLevel" => checked = Some(!value.contains("Never")),
                    _ => {}
                }
            }
            Repository { name: Some(name.to_owned()), uris, checked, ..Repository::over(&lines) }
        })
        .collect()
}

fn servers(text: &str) -> Vec<String> {
    let server = |line: Line<'_>| {
        let (key, value) = line.raw.split_once('=')?;
        (key.trim() == "Server").then(|| value.trim().to_owned())
    };
    lines(text).filter_map(server).collect()
}

/// `/etc/apk/repositories`: one repository a line, a tag before it (apk-repositories(5)).
pub fn apk_lines(text: &str) -> Vec<Repository> {
    lines(text)
        .filter_map(|line| {
            let body = line.raw.split('#').next().unwrap_or_default().trim();
            let (name, uri) = match body.strip_prefix('@') {
                Some(rest) => {
                    let (tag, uri) = rest.split_once(char::is_whitespace)?;
                    (Some(tag.to_owned()), uri.trim())
                }
                None => (None, body),
            };
            (!uri.is_empty()).then(|| Repository { name, uris: words(uri), ..Repository::at(line) })
        })
        .collect()
}

/// Words, each made anew as what it is.
fn anew(text: &str, kind: Identifies, by: &dyn Redact) -> String {
    text.split_whitespace().map(|word| by.text(kind, word)).collect::<Vec<_>>().join(" ")
}

/// A word that says yes or no; anything else may be anything.
fn yes_or_no(text: &str) -> String {
    if is_no(text) || is_yes(text) { text.to_owned() } else { "x".to_owned() }
}

/// `sources.list`, fit to share: comments and options are left out, what is commented out with them.
pub(crate) fn apt_lines_redacted(text: &str, by: &dyn Redact) -> String {
    line_by_line(text, |raw| {
        let Some(one) = apt_line(Line { number: 1, raw }) else { return String::new() };
        let options = match one.checked {
            Some(true) => " [signed-by=/]",
            Some(false) => " [trusted=yes]",
            None => "",
        };
        let words = |all: &[String], kind| anew(&all.join(" "), kind, by);
        format!(
            "{}{options} {} {} {}",
            one.kind.unwrap_or_default(),
            words(&one.uris, Identifies::FreeText),
            words(&one.suites, Identifies::SoftwareSuite),
            words(&one.components, Identifies::SoftwareSuite)
        )
    })
}

/// `*.sources`, fit to share. A field that sections do not use keeps its place and nothing else, so
/// that stanzas begin where they did.
pub(crate) fn apt_stanzas_redacted(text: &str, by: &dyn Redact) -> String {
    let mut field = String::new();
    line_by_line(text, |raw| {
        if raw.starts_with('#') {
            return "#".to_owned();
        }
        if raw.trim().is_empty() {
            field.clear();
            return String::new();
        }
        let goes_on = raw.starts_with([' ', '\t']);
        let (key, value) = match raw.split_once(':').filter(|_| !goes_on) {
            Some((key, value)) => (key.trim().to_ascii_lowercase(), value),
            None if goes_on => (field.clone(), raw),
            // No field, and not going on with one.
            None => return "x".to_owned(),
        };
        let new = match key.as_str() {
            "types" => {
                value.split_whitespace().filter(|it| is_type(it)).collect::<Vec<_>>().join(" ")
            }
            "uris" => anew(value, Identifies::FreeText, by),
            "suites" | "components" => anew(value, Identifies::SoftwareSuite, by),
            "enabled" | "trusted" => yes_or_no(value.trim()),
            "signed-by" => "/".to_owned(),
            _ => String::new(),
        };
        let known = matches!(
            key.as_str(),
            "types" | "uris" | "suites" | "components" | "enabled" | "trusted" | "signed-by"
        );
        field.clone_from(&key);
        match (goes_on, known) {
            (true, _) => format!(" {}", if new.is_empty() { "." } else { &new }),
            (false, true) => format!("{key}: {new}"),
            (false, false) => "x:".to_owned(),
        }
    })
}

/// An INI file, fit to share: values as `new` has them by key, the others left out, with what goes on
/// with them.
fn ini_redacted(
    text: &str,
    kept: &str,
    by: &dyn Redact,
    new: impl Fn(&str, &str) -> Option<String>,
) -> String {
    let (mut field, mut within) = (String::new(), false);
    line_by_line(text, |raw| {
        let body = raw.trim();
        if body.is_empty() || body.starts_with(['#', ';']) {
            return String::new();
        }
        if let Some(name) = body.strip_prefix('[').and_then(|rest| rest.strip_suffix(']')) {
            field.clear();
            within = true;
            let plain = name == kept;
            let name = if plain { name.to_owned() } else { by.text(Identifies::Label, name) };
            return format!("[{name}]");
        }
        match body.split_once('=') {
            // What stands before the first section is in none.
            _ if !within => String::new(),
            Some((key, value)) if !raw.starts_with([' ', '\t']) => {
                key.trim().clone_into(&mut field);
                let value = new(&field, value.trim());
                value.map(|value| format!("{field}={value}")).unwrap_or_default()
            }
            _ => new(&field, body).map(|value| format!(" {value}")).unwrap_or_default(),
        }
    })
}

/// `*.repo`, fit to share.
pub(crate) fn repo_sections_redacted(text: &str, by: &dyn Redact) -> String {
    ini_redacted(text, "main", by, |key, value| {
        Some(match key {
            "baseurl" | "metalink" | "mirrorlist" => anew(value, Identifies::FreeText, by),
            "enabled" | "gpgcheck" => yes_or_no(value),
            _ => return None,
        })
    })
}

/// `pacman.conf` and the files that it includes, fit to share.
pub(crate) fn pacman_redacted(text: &str, by: &Pseudonyms) -> String {
    ini_redacted(text, "options", by, |key, value| {
        Some(match key {
            "Server" => by.text(Identifies::FreeText, value),
            "Include" => by.source(value),
            "SigLevel" if value.contains("Never") => "Never".to_owned(),
            "SigLevel" => "Required".to_owned(),
            _ => return None,
        })
    })
}

/// A list of mirrors of pacman's, fit to share.
pub(crate) fn mirrors_redacted(text: &str, by: &dyn Redact) -> String {
    line_by_line(text, |raw| match raw.split_once('=') {
        Some((key, value)) if key.trim() == "Server" => {
            format!("Server={}", by.text(Identifies::FreeText, value.trim()))
        }
        _ => String::new(),
    })
}

/// `/etc/apk/repositories`, fit to share.
pub(crate) fn apk_lines_redacted(text: &str, by: &dyn Redact) -> String {
    line_by_line(text, |raw| {
        let Some(one) = apk_lines(raw).pop() else { return String::new() };
        let uris = anew(&one.uris.join(" "), Identifies::FreeText, by);
        match one.name {
            Some(name) => format!("@{} {uris}", by.text(Identifies::Label, &name)),
            None => uris,
        }
    })
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    #[test]
    fn one_line_style() {
        let text = "# deb http://old.example x main\n\
            deb [arch=amd64 signed-by=/k.gpg] http://a.example/d reef main extra # here\n\
            deb-src http://a.example/d reef main\ndeb http://only.example\n\
            deb [trusted=yes] file:/srv ./\nnonsense\n";
        let found = apt_lines(text);
        assert_eq!(found.len(), 3);
        assert_eq!((found[0].line, found[0].checked), (2, Some(true)));
        assert_eq!(found[0].components, ["main", "extra"]);
        assert_eq!((found[1].kind.as_deref(), found[1].checked), (Some("deb-src"), None));
        assert_eq!(
            (found[2].checked, found[2].suites.as_slice()),
            (Some(false), &["./".into()][..])
        );
    }

    #[test]
    fn stanza_style() {
        let text = "# a comment\nTypes: deb deb-src\nURIs: http://a.example/d\n  http://b.example/d\n\
            Suites: reef reef-updates\n# within\nComponents: main\nSigned-By: /k.gpg\n\n\
            Types: deb\nURIs: http://c.example\nSuites: x\nEnabled: no\n";
        let found = apt_stanzas(text);
        assert_eq!(found.len(), 3);
        assert_eq!((found[0].line, found[0].uris.len(), found[0].suites.len()), (2, 2, 2));
        assert_eq!(found[1].kind.as_deref(), Some("deb-src"));
        assert_eq!((found[2].line, found[2].enabled, found[2].checked), (10, false, None));
    }

    #[test]
    fn ini_style() {
        let text = "[main]\nx=1\n[base]\nname=Base\nbaseurl=http://a.example/\n  http://b.example/\n\
            gpgcheck=1\n[off]\nmetalink=http://c.example/\nenabled = 0\ngpgcheck=no\n";
        let found = repo_sections(text);
        assert_eq!(found.len(), 2);
        assert_eq!(
            (found[0].uris.len(), found[0].enabled, found[0].checked),
            (2, true, Some(true))
        );
        assert_eq!((found[1].enabled, found[1].checked, found[1].line), (false, Some(false), 8));
    }

    #[test]
    fn sections_that_include_mirrors() {
        let text = "[options]\nHoldPkg = x\n[core]\nInclude = /m\n[own]\nSigLevel = Never\n\
            Server = http://o.example/$repo\n";
        let found = pacman_sections(text, |path| {
            assert_eq!(path, "/m");
            "#Server = http://no.example\nServer = http://m.example/$repo/os\n".to_owned()
        });
        assert_eq!(found[0].uris, ["http://m.example/$repo/os"]);
        assert_eq!(
            (found[1].uris[0].as_str(), found[1].checked),
            ("http://o.example/$repo", Some(false))
        );
    }

    #[test]
    fn lines_with_tags() {
        let found =
            apk_lines("http://a.example/main\n#http://off.example\n@edge http://e.example/x\n");
        assert_eq!(found.len(), 2);
        assert_eq!((found[1].name.as_deref(), found[1].line), (Some("edge"), 3));
    }

    proptest! {
        #[test]
        fn no_text_makes_them_panic(
            text in "(deb|\\[|\\]|=|#|@|:|Types: deb|enabled|Include|\\n| |[a-z/.é]{0,4}){0,40}",
        ) {
            for found in [
                apt_lines(&text),
                apt_stanzas(&text),
                repo_sections(&text),
                pacman_sections(&text, |_| text.clone()),
                apk_lines(&text),
            ] {
                let most = text.lines().count();
                prop_assert!(found.iter().all(|one| (1..=most).contains(&one.line)));
            }
        }
    }
}
