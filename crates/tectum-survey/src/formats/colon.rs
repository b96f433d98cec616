//! `key : value` lines in blocks parted by blank lines (`/proc/cpuinfo`, `/proc/meminfo`).

use super::{Line, line_by_line, lines};

/// One `key : value` line.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Entry<'a> {
    /// What stands before the first colon, trimmed.
    pub key: &'a str,
    /// What stands behind it, trimmed.
    pub value: &'a str,
    /// The line.
    pub line: Line<'a>,
}

/// Entries that belong together.
pub type Block<'a> = Vec<Entry<'a>>;

/// The blocks of a text. Lines without a colon are passed over.
pub fn blocks(text: &str) -> Vec<Block<'_>> {
    let mut blocks = Vec::new();
    let mut block = Vec::new();
    for line in lines(text) {
        if line.raw.trim().is_empty() {
            if !block.is_empty() {
                blocks.push(std::mem::take(&mut block));
            }
            continue;
        }
        if let Some((key, value)) = line.raw.split_once(':') {
            block.push(Entry { key: key.trim(), value: value.trim(), line });
        }
    }
    if !block.is_empty() {
        blocks.push(block);
    }
    blocks
}

/// The first entry of a block with that key.
pub fn find<'a, 'b>(block: &'b [Entry<'a>], key: &str) -> Option<&'b Entry<'a>> {
    block.iter().find(|entry| entry.key == key)
}

/// The first entry of any block with that key.
pub fn find_first<'a, 'b>(blocks: &'b [Block<'a>], key: &str) -> Option<&'b Entry<'a>> {
    blocks.iter().find_map(|block| find(block, key))
}

/// `key : value` lines, fit to share: a value stands as `new` has it, and a line for which it has
/// nothing is left out.
pub(crate) fn redacted(text: &str, new: impl Fn(&str, &str) -> Option<String>) -> String {
    line_by_line(text, |raw| {
        let Some((key, value)) = raw.split_once(':') else { return String::new() };
        match new(key.trim(), value.trim()) {
            Some(value) => format!("{key}: {value}"),
            // A blank line would part what belongs together.
            None => "-".to_owned(),
        }
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn blocks_end_at_blank_lines_and_keep_line_numbers() {
        let text = "processor\t: 0\nmodel name\t: A: B\n\n\nnoise\nSerial : 7\n";
        let blocks = blocks(text);
        assert_eq!(blocks.len(), 2);
        let model = find(&blocks[0], "model name").unwrap();
        assert_eq!((model.value, model.line.number), ("A: B", 2));
        assert_eq!(find(&blocks[1], "Serial").unwrap().line.number, 6);
    }
}
