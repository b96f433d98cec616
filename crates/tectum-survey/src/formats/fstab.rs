//! `/etc/fstab` (fstab(5)) and `/proc/swaps` (`Documentation/filesystems/proc.rst`).

use std::borrow::Cow;

use tectum_report::leaf::{Identifies, Redact};

use super::{
    Line, line_by_line, lines, mount_option,
    mountinfo::{escape, unescape},
};

/// One line of fstab.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Declared<'a> {
    /// What is to be mounted: a device's path, `UUID=…`, `server:/path`.
    pub source: Cow<'a, str>,
    /// Where; `none` for swap.
    pub mount_point: Cow<'a, str>,
    /// The kind of filesystem.
    pub filesystem: &'a str,
    /// The options.
    pub options: Vec<&'a str>,
    /// The line.
    pub line: Line<'a>,
}

/// The lines that declare something.
pub fn parse(text: &str) -> Vec<Declared<'_>> {
    lines(text)
        .filter_map(|line| {
            let body = line.raw.trim();
            if body.starts_with('#') {
                return None;
            }
            let mut fields = body.split_whitespace();
            let source = unescape(fields.next()?);
            let mount_point = unescape(fields.next()?);
            let filesystem = fields.next()?;
            let options = fields.next().unwrap_or("defaults").split(',').collect();
            Some(Declared { source, mount_point, filesystem, options, line })
        })
        .collect()
}

/// One swap device or file.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Swap<'a> {
    /// Its path.
    pub path: Cow<'a, str>,
    /// `partition` or `file`.
    pub kind: &'a str,
    /// Size in KiB.
    pub size_kib: u64,
    /// KiB in use.
    pub used_kib: u64,
    /// Priority: a higher one is used first.
    pub priority: i64,
    /// The line.
    pub line: Line<'a>,
}

/// The lines of `/proc/swaps`; the heading and what cannot be read are passed over.
pub fn swaps(text: &str) -> Vec<Swap<'_>> {
    lines(text)
        .filter_map(|line| {
            let mut fields = line.raw.split_whitespace();
            Some(Swap {
                path: unescape(fields.next()?),
                kind: fields.next()?,
                size_kib: fields.next()?.parse().ok()?,
                used_kib: fields.next()?.parse().ok()?,
                priority: fields.next()?.parse().ok()?,
                line,
            })
        })
        .collect()
}

/// fstab, fit to share: every field is made anew, comments and secrets are left out.
pub(crate) fn redacted(text: &str, by: &dyn Redact) -> String {
    line_by_line(text, |raw| {
        let Some(one) = parse(raw).pop() else { return String::new() };
        let (tag, id) = one.source.split_once('=').unwrap_or(("", &one.source));
        let id = id.trim_matches('"');
        let source = match tag {
            "UUID" | "PARTUUID" => format!("{tag}={}", by.text(Identifies::Uuid, id)),
            "LABEL" | "PARTLABEL" => format!("{tag}={}", by.text(Identifies::Label, id)),
            "" => by.text(Identifies::MountSource, id),
            _ => by.text(Identifies::MountSource, &one.source),
        };
        let options = raw.split_whitespace().nth(3).map(|own| mount_option::redacted(own, by));
        let numbers = raw.split_whitespace().skip(4).take(2);
        let mut fields = vec![
            escape(&source),
            escape(&by.text(Identifies::Path, &one.mount_point)),
            by.text(Identifies::FilesystemKind, one.filesystem),
        ];
        // No option at all would be another number of fields.
        fields.extend(options.map(|own| if own.is_empty() { ",".to_owned() } else { own }));
        fields.extend(numbers.filter(|it| it.parse::<u32>().is_ok()).map(str::to_owned));
        fields.join(" ")
    })
}

/// `/proc/swaps`, fit to share: the paths are made anew.
pub(crate) fn swaps_redacted(text: &str, by: &dyn Redact) -> String {
    line_by_line(text, |raw| match swaps(raw).pop() {
        Some(swap) => format!(
            "{} {} {} {} {}",
            escape(&by.text(Identifies::MountSource, &swap.path)),
            swap.kind,
            swap.size_kib,
            swap.used_kib,
            swap.priority
        ),
        None => String::new(),
    })
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    #[test]
    fn lines_with_escapes_and_without_options() {
        let text = "# x\n\nUUID=7 /srv/cold\\040store xfs rw,noauto 0 2\n/dev/a none swap\nalone\n";
        let found = parse(text);
        assert_eq!(found.len(), 2);
        assert_eq!(found[0].mount_point, "/srv/cold store");
        assert_eq!((found[0].options.as_slice(), found[0].line.number), (&["rw", "noauto"][..], 3));
        assert_eq!(found[1].options, ["defaults"]);
    }

    #[test]
    fn swap_devices_and_files() {
        let text = "Filename Type Size Used Priority\n/swap\\040file file 1024 8 -2\n/dev/b partition x 0 1\n";
        let found = swaps(text);
        assert_eq!(found.len(), 1);
        assert_eq!(
            (&*found[0].path, found[0].size_kib, found[0].priority),
            ("/swap file", 1024, -2)
        );
    }

    proptest! {
        #[test]
        fn no_text_makes_it_panic(text in "[a-z0-9/\\\\ ,=#\\n-]{0,120}") {
            let _ = parse(&text);
            let _ = swaps(&text);
        }
    }
}
