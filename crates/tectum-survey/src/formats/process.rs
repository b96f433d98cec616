//! `/proc/PID/stat`, `status`, `io` and `smaps_rollup` (proc_pid_stat(5) and its neighbours).

use tectum_report::leaf::{Identifies, Redact};

use super::colon;

/// What `/proc/PID/stat` says, as far as it is used.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Stat<'a> {
    /// The process's number.
    pub pid: u64,
    /// The name of its program, which may hold anything, brackets and spaces too.
    pub name: &'a str,
    /// What it is doing, as a letter.
    pub state: char,
    /// The number of its parent.
    pub parent: u64,
    /// The kernel's marks of it.
    pub flags: u64,
    /// Processor time in user mode, in ticks.
    pub user_ticks: u64,
    /// Processor time in the kernel, in ticks.
    pub system_ticks: u64,
    /// Its threads.
    pub threads: u64,
    /// When it was started, in ticks since boot.
    pub started_ticks: u64,
}

/// Ticks a second in what the kernel tells programs (`include/asm-generic/param.h`, `USER_HZ`).
pub const TICKS: u64 = 100;

/// The mark of a thread of the kernel's own (`include/linux/sched.h`, `PF_KTHREAD`).
pub const KERNEL_THREAD: u64 = 0x0020_0000;

impl Stat<'_> {
    /// Whether it is a thread of the kernel's own.
    pub fn is_kernel_thread(&self) -> bool {
        self.flags & KERNEL_THREAD != 0
    }
}

/// What a text says; nothing where it is of another form.
pub fn stat(text: &str) -> Option<Stat<'_>> {
    let (pid, name, rest) = parts(text)?;
    let fields: Vec<&str> = rest.split_ascii_whitespace().collect();
    // The third field of the manual is the first behind the name.
    let number = |field: usize| fields.get(field.checked_sub(3)?)?.parse::<u64>().ok();
    let mut state = fields.first()?.chars();
    Some(Stat {
        pid: pid.parse().ok()?,
        name,
        state: state.next().filter(|_| state.next().is_none())?,
        parent: number(4)?,
        flags: number(9)?,
        user_ticks: number(14)?,
        system_ticks: number(15)?,
        threads: number(20)?,
        started_ticks: number(22)?,
    })
}

/// The number, the name, and the fields behind it: the last bracket ends the name, which may hold some itself.
fn parts(text: &str) -> Option<(&str, &str, &str)> {
    let (pid, rest) = text.split_once(" (")?;
    let (name, rest) = rest.rsplit_once(')')?;
    Some((pid, name, rest))
}

/// `stat`, fit to share: the name is made anew, and nothing but numbers and a letter stands behind it.
pub(crate) fn stat_redacted(text: &str, by: &dyn Redact) -> String {
    let Some((pid, name, rest)) = parts(text) else { return String::new() };
    let known = |field: &&str| {
        field.parse::<i64>().is_ok() || field.parse::<u64>().is_ok() || field.len() == 1
    };
    let number = pid.trim();
    if number.parse::<u64>().is_err() {
        return String::new();
    }
    let fields: Vec<&str> = rest.split_ascii_whitespace().take_while(known).collect();
    format!("{number} ({}) {}\n", by.text(Identifies::Label, name), fields.join(" "))
}

/// `KEY: VALUE` lines of which only some are known to hold nothing of an owner's.
pub(crate) fn lines_redacted(text: &str, known: &[&str], by: &dyn Redact) -> String {
    colon::redacted(text, |key, value| match key {
        "Name" => Some(by.text(Identifies::Label, value)),
        _ if known.contains(&key) => {
            let plain = |c: char| c.is_ascii_alphanumeric() || " \t()".contains(c);
            value.chars().all(plain).then(|| value.to_owned())
        }
        _ => None,
    })
}

/// The control group of version 2 in `/proc/PID/cgroup` (cgroups(7)): the path behind `0::`.
pub fn control_group(text: &str) -> Option<&str> {
    text.lines().find_map(|line| line.strip_prefix("0::"))
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;
    use rstest::rstest;

    use super::*;

    const LINE: &str = "812 (tide (old) x) D 1 812 812 0 -1 4194624 3 0 0 0 250 50 0 0 20 0 7 0 12345 \
        99 88 18446744073709551615 0";

    #[test]
    fn a_name_may_hold_brackets_and_spaces() {
        let own = stat(LINE).unwrap();
        assert_eq!((own.pid, own.name, own.state, own.parent), (812, "tide (old) x", 'D', 1));
        assert_eq!((own.user_ticks, own.system_ticks, own.threads), (250, 50, 7));
        assert_eq!((own.started_ticks, own.is_kernel_thread()), (12345, false));
        assert!(
            stat("2 (kthreadd) S 0 0 0 0 -1 2129984 0 0 0 0 0 4 0 0 20 0 1 0 17 0 0")
                .unwrap()
                .is_kernel_thread()
        );
    }

    #[rstest]
    #[case("")]
    #[case("812")]
    #[case("812 (tide")]
    #[case("812 (tide)")]
    #[case("x (tide) S 1 1 1 0 -1 0 3 0 0 0 1 1 0 0 20 0 7 0 12345")]
    #[case("812 (tide) SS 1 1 1 0 -1 0 3 0 0 0 1 1 0 0 20 0 7 0 12345")]
    #[case("812 (tide) S 1 1 1 0 -1 0 3 0 0 0 1")]
    fn another_form_is_nothing(#[case] text: &str) {
        assert_eq!(stat(text), None);
    }

    struct Stars;

    impl Redact for Stars {
        fn text(&self, _: Identifies, _: &str) -> String {
            "***".to_owned()
        }
    }

    #[test]
    fn what_is_shared_reads_as_before_but_for_the_name() {
        let shared = stat_redacted(LINE, &Stars);
        assert_eq!(stat(&shared), stat(LINE).map(|own| Stat { name: "***", ..own }));
        let lines =
            "Name:\tcollector\nUmask:\t0022\nVmRSS:\t    12 kB\nGroups:\t4 20 \nThreads:\t7\n";
        let shared = lines_redacted(lines, &["VmRSS", "Threads"], &Stars);
        assert_eq!(shared, "Name: ***\n-\nVmRSS: 12 kB\n-\nThreads: 7\n");
    }

    proptest! {
        #[test]
        fn no_name_passes(name in "[a-zA-Z0-9 ()\\n:]{1,15}") {
            let text = LINE.replace("tide (old) x", &format!("Q{name}Q"));
            let shared = stat_redacted(&text, &Stars);
            prop_assert!(!shared.contains('Q'), "{}", shared);
        }
    }
}
