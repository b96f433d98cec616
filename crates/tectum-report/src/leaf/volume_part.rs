//! Names that LVM gives what logical volumes consist of.

/// What a logical volume that somebody makes may not have in its name (lvm(8), "Valid names"): LVM calls so
/// what a mirror, a RAID, a pool or a cache consists of, with a number behind it where there are several.
const RESERVED: [&str; 16] = [
    "_cdata", "_cmeta", "_corig", "_cvol", "_imeta", "_iorig", "_mimage", "_mlog", "_pmspare",
    "_rimage", "_rmeta", "_tdata", "_tmeta", "_vdata", "_vorigin", "_wcorig",
];

/// Where in a name begins what says that it is a part of another volume: `_rimage_0` of `vg-home_rimage_0`.
/// Nothing for any other name.
pub fn volume_part(name: &str) -> Option<usize> {
    let plain = name.trim_end_matches(|digit: char| digit.is_ascii_digit());
    let plain = match plain.len() < name.len() {
        true => plain.strip_suffix('_')?,
        false => name,
    };
    let reserved = RESERVED.iter().find(|reserved| plain.ends_with(*reserved))?;
    let at = plain.len() - reserved.len();
    (at > 0).then_some(at)
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case("vg-home_rimage_0", Some("_rimage_0"))]
    #[case("vg-home_rmeta_12", Some("_rmeta_12"))]
    #[case("pool_tdata", Some("_tdata"))]
    #[case("vg-old_mlog", Some("_mlog"))]
    #[case("vg-home", None)]
    #[case("vg-home_0", None)]
    #[case("vg_rimage_0-home", None)]
    #[case("_tdata", None)]
    #[case("_rimage_0", None)]
    #[case("vg-rimage_0", None)]
    #[case("vg-home_rimage0", None)]
    #[case("vg-home_rimage_", None)]
    #[case("12", None)]
    #[case("", None)]
    fn a_part_is_told_by_its_ending(#[case] name: &str, #[case] ending: Option<&str>) {
        assert_eq!(volume_part(name).and_then(|at| name.get(at..)), ending);
    }
}
