//! Machines of random files: whatever an owner chose, wherever a format lets it stand, nothing of it
//! survives redaction, and the copy of the capture gives the copy of the report.

#![allow(
    clippy::unwrap_used,
    clippy::expect_used,
    clippy::panic,
    clippy::indexing_slicing,
    unreachable_pub,
    missing_docs,
    reason = "a test stops at the first thing that is not as it should be"
)]

mod support;

use std::{collections::BTreeSet, path::Path};

use proptest::{collection::vec, prelude::*, sample::select, strategy::Union};
use support::{differences, json, redacted};
use tectum_demo::Tree;
use tectum_report::redact::Pseudonyms;
use tectum_survey::redact::rewritten;

/// A word that an owner chose. None of its kind stands anywhere else.
fn word() -> impl Strategy<Value = String> {
    "qz[0-9][a-w][0-9][a-w]"
}

/// Lines with `@` in the places of owners' words.
fn lines(patterns: &'static [&'static str], most: usize) -> impl Strategy<Value = String> {
    let line = (select(patterns), vec(word(), 8)).prop_map(|(pattern, words)| {
        let mut words = words.into_iter();
        let filled = pattern
            .split('@')
            .map(str::to_owned)
            .reduce(|line, part| format!("{line}{}{part}", words.next().unwrap_or_default()));
        filled.unwrap_or_default()
    });
    vec(line, 0..most).prop_map(|lines| lines.join("\n") + "\n")
}

/// A file by its path, with its content.
fn file() -> impl Strategy<Value = (&'static str, String)> {
    let of = |path: &'static str, patterns: &'static [&'static str], most| {
        lines(patterns, most).prop_map(move |text| (path, text)).boxed()
    };
    Union::new([
        of(
            "etc/fstab",
            &[
                "/dev/@/@ /srv/@ ext4 rw 0 2",
                "UUID=@ /home/@ xfs defaults",
                "LABEL=@ none swap sw,pri=3 0 0",
                "PARTLABEL=\"@\" /mnt/@ ext4 noauto",
                "//@/@ /mnt/@ cifs username=@,password=@,domain=@ 0 0",
                "@@@:/@ /@ nfs4 addr=192.0.2.7,sec=krb5",
                "# @ was here",
                "@ @ @ @",
                "/srv/@\\040@ /mnt/x none bind,x-@ 0 0",
            ],
            8,
        ),
        of(
            "proc/self/mountinfo",
            &[
                "40 22 0:51 /@ /srv/@ rw,noexec shared:7 - nfs4 @.example:/@ rw,addr=192.0.2.9",
                "41 22 253:0 / /home/@ rw - ext4 /dev/mapper/@-@ rw,x=@",
                "42 22 0:52 / /mnt/@ rw - cifs //@/@ rw,username=@,passwd=@",
                "43 22 0:53 / / rw - overlay overlay rw,lowerdir=/@/@:/@,upperdir=/@",
                "44 22 0:54 / /run/user/1000/@ rw - fuse.@ @ rw,user_id=0",
                "45 22 8:1 /@\\040@ /boot rw - btrfs /dev/sda1 rw,subvol=/@",
                "@ @ @",
            ],
            8,
        ),
        of(
            "etc/apt/sources.list",
            &[
                "deb http://@:@@mirror.example/@ @ @ @",
                "deb [arch=amd64 signed-by=/@] https://@.example/@ @",
                "#deb http://@:@@old.example/ @ @",
                "deb-src file:/@ ./ # @",
                "@",
            ],
            6,
        ),
        of(
            "etc/apt/sources.list.d/own.sources",
            &[
                "Types: deb deb-src",
                "URIs: http://@:@@a.example/@",
                " http://@.example/",
                "Suites: @ @-@",
                "Components: @",
                "Signed-By: /@",
                "X-@: @",
                " @",
                "# @",
                "",
                "Enabled: @",
            ],
            14,
        ),
        of(
            "etc/yum.repos.d/own.repo",
            &[
                "[@]",
                "[main]",
                "baseurl=http://@:@@r.example/@",
                "  http://@.example/@",
                "password=@",
                "proxy_password = @",
                "name=@ @",
                "enabled=@",
                "gpgcheck=1",
                "# @",
                "; @",
            ],
            14,
        ),
        of(
            "etc/pacman.conf",
            &["[@]", "[options]", "Server = http://@.example/$repo", "SigLevel = @", "#@", "@=@"],
            8,
        ),
        of("etc/apk/repositories", &["http://@.example/@", "@@ http://@/@", "#@"], 5),
        of("etc/resolv.conf", &["nameserver 192.0.2.53", "search @.example @", "# @", "@ @"], 5),
        of("etc/os-release", &["ID=skerry", "@=@", "NAME=\"Skerry\"", "X_NOTE='@ $@'", "# @"], 6),
        of("etc/hostname", &["@", "@.@.example"], 2),
        of("proc/sys/kernel/hostname", &["@"], 2),
        of("etc/timezone", &["@/@"], 2),
        of("proc/swaps", &["Filename Type Size Used Priority", "/@/@ file 1024 0 -2"], 4),
        of("proc/cmdline", &["quiet @=@ root=/dev/mapper/@-@ x=\"@ @\" \"@=@ @\" ip=@ -- @ ro"], 2),
        of("proc/version", &["Linux version 6.1.0 (@@@) (gcc 12) #1 SMP", "@ @ (@)"], 2),
        of("run/reboot-required", &["*** @ ***"], 2),
        of("run/.containerenv", &["name=\"@\"", "id=\"@\""], 3),
        of("proc/1/cgroup", &["0::/docker/@", "1:name=systemd:/@.slice/libpod-@.scope", "@"], 3),
        of(
            "run/udev/data/b259:77",
            &[
                "S:disk/by-id/@",
                "E:DEVLINKS=/dev/disk/by-label/@ /dev/@/@",
                "E:ID_FS_TYPE=ext4",
                "E:ID_FS_LABEL=@",
                "E:ID_FS_LABEL_ENC=@\\x20@",
                "E:ID_PART_ENTRY_NAME=@",
                "E:ID_SERIAL=@",
                "E:DM_NAME=@",
                "@",
            ],
            9,
        ),
    ])
}

fn machine() -> impl Strategy<Value = Vec<(&'static str, String)>> {
    vec(file(), 1..8)
}

/// Owners' words that stand somewhere in a text.
fn words(text: &str) -> BTreeSet<&str> {
    let found = text.match_indices("qz").filter_map(|(at, _)| text.get(at..at + 6));
    let form = [true, false, true, false];
    found
        .filter(|word| {
            word.bytes().skip(2).zip(form).all(|(byte, digit)| match digit {
                true => byte.is_ascii_digit(),
                false => (b'a'..=b'w').contains(&byte),
            })
        })
        .collect()
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 64, ..ProptestConfig::default() })]

    #[test]
    fn nothing_of_a_random_machine_survives(files in machine(), key in "[a-z0-9]{40}") {
        let folder = tempfile::tempdir().unwrap();
        let mut tree = Tree::default();
        let disk = "sys/devices/pci0000:00/0000:41:00.0/nvme/nvme0/nvme0n1";
        tree.link("sys/block/nvme0n1", &format!("/{disk}"));
        tree.line(format!("{disk}/size"), 8192);
        tree.line(format!("{disk}/nvme0n1p1/partition"), 1);
        tree.line(format!("{disk}/nvme0n1p1/dev"), "259:77");
        tree.line("etc/machine-id", "0123456789abcdef0123456789abcdef");
        for (path, text) in &files {
            tree.file(*path, text.as_str());
        }
        tree.write(folder.path()).unwrap();
        let by = Pseudonyms::new(key.as_bytes(), &BTreeSet::new());
        let (original, copy, bytes) = redacted(folder.path(), &by);
        let expected = by.report(&original).unwrap();
        let found = differences(&json(&copy), &json(&expected));
        prop_assert!(found.is_empty(), "{:#?}", found);
        let all: String = files.iter().map(|(_, text)| text.as_str()).collect();
        let copy = zstd::decode_all(&bytes[..]).unwrap();
        let copy = String::from_utf8_lossy(&copy);
        let left: Vec<_> = words(&copy).intersection(&words(&all)).copied().collect();
        prop_assert!(left.is_empty(), "{:?}", left);
    }
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 256, ..ProptestConfig::default() })]

    /// Whatever bytes stand in a file: it is made anew or withheld, does not grow out of hand, and is of
    /// its format again.
    #[test]
    fn no_bytes_make_rewriting_fail(
        path in select(vec![
            "/etc/fstab", "/etc/os-release", "/etc/resolv.conf", "/etc/yum.repos.d/a.repo",
            "/etc/apt/sources.list.d/a.sources", "/proc/cmdline", "/proc/self/mountinfo",
            "/proc/net/fib_trie", "/proc/net/route", "/proc/net/if_inet6", "/run/udev/data/b8:1",
            "/sys/block/sda/device/vpd_pg83", "/sys/block/sda/device/vpd_pg89",
            "/sys/block/sda/device/vpd_pg80", "/sys/class/drm/card0-X/edid",
            "/sys/firmware/dmi/tables/DMI", "/sys/block/dm-0/dm/uuid", "/proc/1/cgroup",
        ]),
        bytes in prop_oneof![
            vec(any::<u8>(), 0..400),
            "(/|=|\"|,|:|-|\\[|\\]|#| |\t|\n|UUID|E:|[a-z0-9]{1,4}|é){0,80}"
                .prop_map(String::into_bytes),
            // The beginnings of device pages and firmware structures.
            (select(vec![vec![0, 0x83], vec![0, 0x80], vec![0, 0x89], vec![1, 27], vec![17, 40]]),
             vec(any::<u8>(), 0..300)).prop_map(|(mut head, rest)| { head.extend(rest); head }),
        ],
    ) {
        let by = Pseudonyms::new(b"a key of a good length for a test", &BTreeSet::new());
        if let Some(new) = rewritten(Path::new(path), &bytes, &by) {
            prop_assert!(new.len() <= 4096 + bytes.len() * 8);
            prop_assert!(rewritten(Path::new(path), &new, &by).is_some());
        }
    }
}
