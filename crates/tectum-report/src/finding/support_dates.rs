//! When the makers of some systems end their support, for those whose os-release does not say it
//! (`SUPPORT_END`). Of each the end of the longest support that costs nothing. A release that is not here is
//! not judged.

use crate::leaf::Date;

/// When this table was last held against what the makers say.
pub(super) const AS_OF: &str = "2026-01";

/// Identifier and version as in os-release(5), and the last month of support.
const ENDS: [(&str, &str, &str); 16] = [
    ("almalinux", "8", "2029-03"),
    ("almalinux", "9", "2032-05"),
    ("centos", "7", "2024-06"),
    ("centos", "8", "2021-12"),
    ("debian", "10", "2024-06"),
    ("debian", "11", "2026-08"),
    ("debian", "12", "2028-06"),
    ("rhel", "7", "2024-06"),
    ("rhel", "8", "2029-05"),
    ("rhel", "9", "2032-05"),
    ("rocky", "8", "2029-05"),
    ("rocky", "9", "2032-05"),
    ("ubuntu", "18.04", "2023-05"),
    ("ubuntu", "20.04", "2025-05"),
    ("ubuntu", "22.04", "2027-06"),
    ("ubuntu", "24.04", "2029-05"),
];

/// When the support of a release ends, if it is known. A minor version is its major version's.
pub(super) fn end_of(id: &str, version: &str) -> Option<Date> {
    let major = version.split('.').next().unwrap_or_default();
    let of = |wanted: &str| {
        ENDS.iter().find(|(own, release, _)| *own == id && *release == wanted)?.2.parse().ok()
    };
    of(version).or_else(|| of(major))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_date_is_one_and_minor_versions_are_their_majors() {
        for (id, version, date) in ENDS {
            assert_eq!(end_of(id, version).map(|it| it.to_string()).as_deref(), Some(date));
        }
        assert_eq!(end_of("rhel", "9.4"), end_of("rhel", "9"));
        assert_eq!(end_of("rhel", "19"), None);
        assert_eq!(end_of("ubuntu", "22.10"), None);
    }
}
