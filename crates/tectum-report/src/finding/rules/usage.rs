//! How full filesystems are, each once, as several rules look at it.

use std::collections::HashSet;

use crate::{
    finding::judge::Judge,
    model::{FilesystemUse, MountClass},
};

/// The filesystems that can fill up, each once with its pointer: a second mount of one is no other, what lies
/// over another is as full as that, and an image is full by what it is.
pub(super) fn filesystems<'a>(it: &mut Judge<'a>) -> Vec<(String, &'a FilesystemUse)> {
    let now = it.section(&it.report().readings.filesystems, "/readings/filesystems");
    let Some(now) = now else { return Vec::new() };
    let mut seen = HashSet::new();
    let mut all = it.parts(&now.usage, "/readings/filesystems/usage");
    all.retain(|(_, one)| {
        let kind = one.filesystem.value().map_or("", |kind| kind.0.as_str());
        let image = matches!(kind, "squashfs" | "iso9660" | "udf" | "erofs" | "cramfs" | "romfs");
        let class = one.class.value();
        // Only on a disk of its own does a source name one filesystem.
        let again = class == Some(&MountClass::Local)
            && one.source.value().is_some_and(|source| !seen.insert(source.0.as_str()));
        !image && class != Some(&MountClass::Layered) && !again
    });
    all
}
