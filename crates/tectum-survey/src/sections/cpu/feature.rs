//! Features, grouped by what an administrator looks for.

use std::collections::{BTreeMap, BTreeSet};

use super::Info;
use tectum_report::{
    declare::Parts,
    fact::{Evidence, Fact, Gap, Saying, Why, saying},
    leaf::Term,
    model::FeatureGroup,
};

/// The lines in which architectures list features.
const LINES: [&str; 6] = ["flags", "Features", "features", "isa", "ASEs implemented", "facilities"];

/// Groups in the order in which they are told, and what belongs to each: names, and beginnings of
/// names marked by a star.
const GROUPS: [(&str, &[&str]); 5] = [
    (
        "vector",
        &[
            "3dnow*",
            "altivec",
            "amx*",
            "asimd*",
            "avx*",
            "f16c",
            "fma*",
            "fphp",
            "i8mm",
            "bf16",
            "lasx",
            "lsx",
            "misalignsse",
            "mmx*",
            "msa",
            "neon",
            "sme*",
            "sse*",
            "ssse3",
            "sve*",
            "v",
            "vfp*",
            "vx*",
            "xop",
            "zve*",
            "zvl*",
            "zvf*",
        ],
    ),
    (
        "cryptography",
        &[
            "ace*",
            "aes",
            "crc32",
            "crypto",
            "gfni",
            "pclmulqdq",
            "phe*",
            "pmm*",
            "pmull",
            "rdrand",
            "rdseed",
            "rng*",
            "sha*",
            "sm3*",
            "sm4*",
            "vaes",
            "vpclmulqdq",
            "zbc",
            "zbk*",
            "zk*",
            "zvk*",
        ],
    ),
    (
        "virtualization",
        &[
            "avic",
            "decodeassists",
            "ept*",
            "extapic",
            "flexpriority",
            "flushbyasid",
            "h",
            "hypervisor",
            "lbrv",
            "lvz",
            "npt",
            "nrip_save",
            "pausefilter",
            "pfthreshold",
            "sev*",
            "sie",
            "svm*",
            "tdx_guest",
            "tpr_shadow",
            "tsc_scale",
            "v_spec_ctrl",
            "v_vmsave_vmload",
            "vgif",
            "virt",
            "vmcb_clean",
            "vmmcall",
            "vmx",
            "vnmi",
            "vpid",
            "x2avic",
        ],
    ),
    (
        "security",
        &[
            "amd_ibpb*",
            "amd_ssbd",
            "arch_capabilities",
            "bti",
            "cet*",
            "dit",
            "fb_clear",
            "flush_l1d",
            "ibpb*",
            "ibrs*",
            "ibt",
            "intel_stibp",
            "l1tf",
            "md_clear",
            "mte*",
            "nx",
            "ospke",
            "paca",
            "pacg",
            "pku",
            "pti",
            "rsb_ctxsw",
            "sb",
            "sgx*",
            "shstk",
            "smap",
            "smep",
            "sme_coherent",
            "spec_ctrl",
            "ssbd",
            "ssbs",
            "stibp*",
            "tme",
            "umip",
            "user_shstk",
            "virt_ssbd",
            "zicfi*",
        ],
    ),
    (
        "memory",
        &[
            "atomics", "cat_*", "cdp_*", "clflush*", "clwb", "clzero", "cqm*", "cx16", "dcpodp",
            "dcpop", "edat*", "erms", "fsrm", "fzrm", "invpcid*", "la57", "lm", "lpae", "lrcpc",
            "ilrcpc", "mba", "movdir*", "mtrr", "pae", "pat", "pcid", "pdpe1gb", "pge", "pse*",
            "rdt_a", "rep_good", "sv*", "uscat", "zicbo*",
        ],
    ),
];

/// The group of a feature.
fn group(flag: &str) -> &'static str {
    let belongs = |names: &[&str]| {
        names.iter().any(|name| match name.strip_suffix('*') {
            Some(start) => flag.starts_with(start),
            None => flag == *name,
        })
    };
    // Some features begin like those of another group: the exact names come first.
    let exact = GROUPS.iter().find(|(_, names)| names.contains(&flag));
    let found = exact.or_else(|| GROUPS.iter().find(|(_, names)| belongs(names)));
    found.map_or("other", |(group, _)| group)
}

/// The features of a line: words, or the letters and words of a RISC-V instruction set.
fn split<'a>(key: &str, value: &'a str) -> Vec<&'a str> {
    if key != "isa" || !value.starts_with("rv") {
        return value.split_whitespace().collect();
    }
    let mut words = value.split('_');
    let base = words.next().unwrap_or_default();
    // `rv64imafdc`: the width, then a letter for each extension.
    let letters = base.trim_start_matches("rv").trim_start_matches(|c: char| c.is_ascii_digit());
    let each = letters.char_indices().filter_map(|(at, c)| letters.get(at..at + c.len_utf8()));
    each.chain(words).collect()
}

pub(super) fn features(info: &Info<'_>) -> Parts<FeatureGroup> {
    let Some(entry) = info.entries.first(&LINES) else {
        return Parts::missing(info.file.lacks("the processor's features"));
    };
    let mut groups: BTreeMap<&str, BTreeSet<&str>> = BTreeMap::new();
    for flag in split(entry.key, entry.value) {
        groups.entry(group(flag)).or_default().insert(flag);
    }
    let order = GROUPS.iter().map(|(name, _)| *name).chain(["other"]);
    let items = order
        .filter_map(|name| {
            let flags = groups.get(name)?;
            let raw = flags.iter().copied().collect::<Vec<_>>().join(" ");
            let at = |rule: Saying| {
                Evidence::new(info.file.path().clone(), rule).line(entry.line.number).raw(&raw)
            };
            Some(FeatureGroup {
                group: Fact::known(Term::from(name), at(saying!("they", "by what they are for"))),
                flags: Fact::known(
                    flags.iter().map(|flag| Term::from(*flag)).collect(),
                    at(saying!(
                        "line-words-belong-here-sorted",
                        "the line's words that belong here, sorted",
                    )),
                ),
            })
        })
        .collect();
    let rule = saying!("every-word-first-cpu-line", "every word of the first CPU's line");
    let place = format!("line {}", entry.line.number);
    Parts::known(items, Evidence::new(info.file.path().clone(), rule).place(place))
}

/// By what the processor can run virtual machines of its own.
pub(super) fn virtualization(info: &Info<'_>, features: &Parts<FeatureGroup>) -> Fact<Term> {
    const KNOWN: [(&str, &str); 5] = [
        ("vmx", "Intel VT-x (vmx)"),
        ("svm", "AMD-V (svm)"),
        ("sie", "interpretive execution (sie)"),
        ("lvz", "LoongArch virtualization (lvz)"),
        ("h", "RISC-V hypervisor extension (h)"),
    ];
    if let Some(gap) = features.gap() {
        return Fact::gap(gap.clone());
    }
    let found = features.iter().find_map(|group| {
        let flags = group.flags.value()?;
        let (_, name) = KNOWN.iter().find(|(flag, _)| flags.iter().any(|have| **have == **flag))?;
        let evidence = group.flags.evidence().first()?.clone();
        Some((
            name,
            Evidence { rule: saying!("feature-name", "the feature of this name"), ..evidence },
        ))
    });
    match found {
        Some((name, evidence)) => Fact::known(Term::from(*name), evidence),
        None => Fact::gap(
            Gap::new(Why::NotProvided)
                .tried(
                    info.file.path().clone(),
                    saying!("names-no-such-feature", "names no such feature"),
                )
                .hint(saying!(
                    "arm-processors-do-not-name",
                    "Arm processors do not name it there; firmware may also have turned it off",
                )),
        ),
    }
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case("avx512_vnni", "vector")]
    #[case("sme", "vector")]
    #[case("sme_coherent", "security")]
    #[case("sha_ni", "cryptography")]
    #[case("svm_lock", "virtualization")]
    #[case("sve2", "vector")]
    #[case("svinval", "memory")]
    #[case("nx", "security")]
    #[case("constant_tsc", "other")]
    fn features_have_their_group(#[case] flag: &str, #[case] expected: &str) {
        assert_eq!(group(flag), expected);
    }

    #[test]
    fn an_instruction_set_is_letters_and_words() {
        let parts = split("isa", "rv64imafdc_zicsr_zba_sstc");
        assert_eq!(parts, ["i", "m", "a", "f", "d", "c", "zicsr", "zba", "sstc"]);
        assert_eq!(split("isa", "mips1 mips32r2"), ["mips1", "mips32r2"]);
    }
}
