//! `/proc/self/mountinfo` (proc_pid_mountinfo(5)).

use std::borrow::Cow;

use tectum_report::leaf::{Identifies, Redact};

use super::{Line, escape::put_back, line_by_line, lines, mount_option};

/// One mount.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Mount<'a> {
    /// Its number.
    pub id: u64,
    /// The number of the mount that it is mounted on.
    pub parent: u64,
    /// Device number, `major:minor`.
    pub device: &'a str,
    /// The path within the filesystem that is mounted.
    pub root: Cow<'a, str>,
    /// Where it is mounted.
    pub mount_point: Cow<'a, str>,
    /// Options of this mount.
    pub options: &'a str,
    /// The kind of filesystem.
    pub filesystem: &'a str,
    /// What is mounted: a device's path, or whatever the filesystem calls its source.
    pub source: Cow<'a, str>,
    /// Options of the filesystem.
    pub super_options: &'a str,
    /// The line.
    pub line: Line<'a>,
}

/// The mounts of a text. Lines of another form are passed over.
pub fn parse(text: &str) -> Vec<Mount<'_>> {
    lines(text).filter_map(parse_line).collect()
}

fn parse_line(line: Line<'_>) -> Option<Mount<'_>> {
    let mut fields = line.raw.split(' ');
    let mut number = || fields.next()?.parse().ok();
    let (id, parent) = (number()?, number()?);
    let device = fields.next()?;
    let root = unescape(fields.next()?);
    let mount_point = unescape(fields.next()?);
    let options = fields.next()?;
    // Optional fields, as many as the kernel likes, end with a lone hyphen.
    fields.by_ref().find(|field| *field == "-")?;
    let filesystem = fields.next()?;
    let source = unescape(fields.next()?);
    let super_options = fields.next().unwrap_or_default();
    Some(Mount {
        id,
        parent,
        device,
        root,
        mount_point,
        options,
        filesystem,
        source,
        super_options,
        line,
    })
}

/// Puts back what the kernel writes as a backslash and three octal digits.
pub fn unescape(field: &str) -> Cow<'_, str> {
    if !field.contains('\\') {
        return Cow::Borrowed(field);
    }
    let bytes = put_back(field.as_bytes(), |code| match code {
        [a @ b'0'..=b'3', b @ b'0'..=b'7', c @ b'0'..=b'7'] => {
            Some((a - b'0') << 6 | (b - b'0') << 3 | (c - b'0'))
        }
        _ => None,
    });
    Cow::Owned(crate::source::bytes_text(&bytes).into_owned())
}

/// Writes what [`unescape`] puts back.
pub(crate) fn escape(text: &str) -> String {
    let mut new = String::with_capacity(text.len());
    for character in text.chars() {
        match character {
            ' ' | '\t' | '\n' | '\\' | '#' => {
                new.push_str(&format!("\\{:03o}", u32::from(character)));
            }
            other => new.push(other),
        }
    }
    new
}

/// The text, fit to share: paths, sources and options of every mount are made anew, optional fields
/// and what is no mount are left out.
pub(crate) fn redacted(text: &str, by: &dyn Redact) -> String {
    line_by_line(text, |raw| {
        let Some(mount) = parse_line(Line { number: 1, raw }) else { return String::new() };
        let ids: Vec<&str> = raw.split(' ').take(2).filter(|id| is_number(id)).collect();
        format!(
            "{} {} {} {} {} - {} {} {}",
            if ids.len() == 2 { ids.join(" ") } else { "0 0".to_owned() },
            mount.device,
            escape(&by.text(Identifies::Path, &mount.root)),
            escape(&by.text(Identifies::Path, &mount.mount_point)),
            mount_option::redacted(mount.options, by),
            by.text(Identifies::FilesystemKind, mount.filesystem),
            escape(&by.text(Identifies::MountSource, &mount.source)),
            mount_option::redacted(mount.super_options, by),
        )
    })
}

fn is_number(text: &str) -> bool {
    !text.is_empty() && text.bytes().all(|byte| byte.is_ascii_digit())
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    #[test]
    fn escapes_and_optional_fields_are_understood() {
        let text = "35 25 253:1 / /srv/cold\\040store\\134x rw shared:1 master:2 - xfs /dev/a rw,q\n\
                    broken line\n\
                    36 25 0:9 / /x rw - tmpfs tmpfs\n";
        let mounts = parse(text);
        assert_eq!(mounts.len(), 2);
        assert_eq!(mounts[0].mount_point, "/srv/cold store\\x");
        assert_eq!((mounts[0].device, mounts[0].filesystem), ("253:1", "xfs"));
        assert_eq!(mounts[1].super_options, "");
    }

    proptest! {
        #[test]
        fn no_text_makes_it_panic(text in "[0-9a-z:/\\\\ \\-\\n\u{e9}]{0,200}") {
            let _ = parse(&text);
        }
    }
}
