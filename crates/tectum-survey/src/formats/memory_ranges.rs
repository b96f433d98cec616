//! Ranges of physical memory by whom they are used for: `/proc/iomem`.

/// A range that a driver gave to the kernel as memory.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Range<'a> {
    /// The driver's name.
    pub driver: &'a str,
    /// The first address.
    pub start: u64,
    /// How many bytes.
    pub bytes: u64,
    /// The line, without the space around it.
    pub line: &'a str,
}

const SYSTEM: &str = "System RAM";

/// The first and the last address of a line, and what it is for.
fn range(line: &str) -> Option<(u64, u64, &str)> {
    let (addresses, name) = line.split_once(" : ")?;
    let (first, last) = addresses.trim().split_once('-')?;
    let hexadecimal = |text| u64::from_str_radix(text, 16).ok();
    Some((hexadecimal(first)?, hexadecimal(last)?, name.trim()))
}

/// The ranges of memory that drivers added: `System RAM (virtio_mem)`.
pub fn of_drivers(text: &str) -> Vec<Range<'_>> {
    let of_a_driver = |line| {
        let (start, last, name) = range(line)?;
        let driver =
            name.strip_prefix(SYSTEM)?.trim_start().strip_prefix('(')?.strip_suffix(')')?;
        let bytes = last.checked_sub(start)?.checked_add(1)?;
        Some(Range { driver, start, bytes, line: str::trim(line) })
    };
    text.lines().filter_map(of_a_driver).collect()
}

/// Whether the kernel withholds the addresses: it shows every one as 0.
pub fn are_withheld(text: &str) -> bool {
    let mut all = text.lines().filter_map(range).peekable();
    all.peek().is_some() && all.all(|(first, last, _)| first == 0 && last == 0)
}

/// What of the file may be given on: the lines of memory.
pub fn redacted(text: &str) -> String {
    super::line_by_line(text, |line| match range(line) {
        Some((_, _, name)) if name.starts_with(SYSTEM) => line.to_owned(),
        _ => String::new(),
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case("100000000-17fffffff : System RAM (virtio_mem)", Some(("virtio_mem", 0x8000_0000)))]
    #[case("  1080000000-147fffffff : System RAM (kmem)", Some(("kmem", 0x4_0000_0000)))]
    #[case("00100000-7fffffff : System RAM", None)]
    #[case("5-3 : System RAM (kmem)", None)]
    #[case("0-ffffffffffffffff : System RAM (kmem)", None)]
    #[case("x : System RAM (kmem)", None)]
    fn memory_that_a_driver_added(#[case] line: &str, #[case] is: Option<(&str, u64)>) {
        let found = of_drivers(line);
        assert_eq!(found.first().map(|it| (it.driver, it.bytes)), is);
    }

    #[test]
    fn zeros_are_addresses_withheld() {
        assert!(are_withheld(
            "00000000-00000000 : System RAM\n  00000000-00000000 : Kernel code\n"
        ));
        assert!(!are_withheld("00000000-00000fff : Reserved\n"));
        assert!(!are_withheld(""));
    }

    #[test]
    fn only_lines_of_memory_are_given_on() {
        let text = "0-9fbff : System RAM\nfe000000-fe00ffff : Secret Device\n";
        assert_eq!(redacted(text), "0-9fbff : System RAM\n\n");
    }
}
