//! What several sections say of where a value is from, or why it is missing: each said once, with the
//! code that stands for it in a report. What only one place says is declared there.

use tectum_report::fact::{Saying, saying};

pub(crate) const AS_UDEV_RECORDED: Saying = saying!("as-udev-recorded", "as udev recorded it");
pub(crate) const BEHIND_CARD_NAME: Saying = saying!("behind-card-name", "behind the card's name");
pub(crate) const BITS: Saying = saying!("bits", "bits");
pub(crate) const BITS_3_0: Saying = saying!("bits-3-0", "bits 3:0");
pub(crate) const BITS_4_0: Saying = saying!("bits-4-0", "bits 4:0");
pub(crate) const BITS_7_5: Saying = saying!("bits-7-5", "bits 7:5");
pub(crate) const BIT_7: Saying = saying!("bit-7", "bit 7");
pub(crate) const BLANK: Saying = saying!("blank", "is blank");
pub(crate) const BOARD_LINE: Saying = saying!("board-line", "the board's line");
pub(crate) const BYTES: Saying = saying!("bytes", "bytes");
pub(crate) const BYTES_ALL_ONES_UNKNOWN: Saying =
    saying!("bytes-all-ones-unknown", "bytes; all ones is unknown");
pub(crate) const BY_ITS_DATABASE: Saying = saying!("by-its-database", "by its database");
pub(crate) const CONTROLLER_NO_PCI_FUNCTION: Saying =
    saying!("controller-no-pci-function", "its controller is no PCI function");
pub(crate) const COUNTED: Saying = saying!("counted", "counted");
pub(crate) const DECIMAL_NUMBER: Saying = saying!("decimal-number", "a decimal number");
pub(crate) const DEVICE_LINK_LEADS: Saying =
    saying!("device-link-leads", "the device that the link leads to");
pub(crate) const DEVICE_NAME_FOLDER: Saying =
    saying!("device-name-folder", "the device's name in the folder");
pub(crate) const DISTINCT_CORE_CPUS_LIST_ONLINE: Saying =
    saying!("distinct-core-cpus-list-online", "the distinct core_cpus_list of its online CPUs");
pub(crate) const DOES_NOT_SAY_IT: Saying = saying!("does-not-say-it", "does not say it");
pub(crate) const DRIVER_LINK_LEADS: Saying =
    saying!("driver-link-leads", "the driver that the link leads to");
pub(crate) const EACH_VERSION_ONCE_OVER_ALL: Saying =
    saying!("each-version-once-over-all", "each version once, over all CPUs");
pub(crate) const EVERY_FILE_FOLDER: Saying =
    saying!("every-file-folder", "every file in the folder");
pub(crate) const EVERY_FOLDER_FOLDER: Saying =
    saying!("every-folder-folder", "every folder in the folder");
pub(crate) const EVERY_FOLDER_NAMED_NODE_NUMBER: Saying =
    saying!("every-folder-named-node-number", "every folder named node and a number");
pub(crate) const EVERY_LINE: Saying = saying!("every-line", "every line");
pub(crate) const EVERY_LINE_BUT_HEADING: Saying =
    saying!("every-line-but-heading", "every line but the heading");
pub(crate) const EVERY_NAME_FOLDER: Saying =
    saying!("every-name-folder", "every name in the folder");
pub(crate) const FIFTH_FIELD_ESCAPES_PUT_BACK: Saying =
    saying!("fifth-field-escapes-put-back", "the fifth field, escapes put back");
pub(crate) const FILE: Saying = saying!("file", "the file is there");
pub(crate) const FILE_NAME: Saying = saying!("file-name", "the file's name");
pub(crate) const FILE_TEXT_TRIMMED: Saying =
    saying!("file-text-trimmed", "the file's text, trimmed");
pub(crate) const FIRST_FIELD: Saying = saying!("first-field", "the first field");
pub(crate) const SECOND_FIELD_BEHIND_HYPHEN: Saying =
    saying!("second-field-behind-hyphen", "the second field behind the hyphen");
pub(crate) const FIRST_FIELD_BEHIND_HYPHEN: Saying =
    saying!("first-field-behind-hyphen", "the first field behind the hyphen");
pub(crate) const FOLDER_NAME: Saying = saying!("folder-name", "the folder's name, `!` for `/`");
pub(crate) const FOURTH_FIELD: Saying = saying!("fourth-field", "the fourth field");
pub(crate) const FOUR_HEXADECIMAL_DIGITS: Saying =
    saying!("four-hexadecimal-digits", "four hexadecimal digits");
pub(crate) const FUNCTION_NAME_FOLDER: Saying =
    saying!("function-name-folder", "the function's name in the folder");
pub(crate) const GIVES_NO: Saying = saying!("gives-no", "gives no {}");
pub(crate) const HEXADECIMAL: Saying = saying!("hexadecimal", "hexadecimal");
pub(crate) const HEXADECIMAL_BYTES: Saying = saying!("hexadecimal-bytes", "hexadecimal, in bytes");
pub(crate) const INTERFACE_NAME_FOLDER: Saying =
    saying!("interface-name-folder", "the interface's name in the folder");
pub(crate) const ITS_WORDS: Saying = saying!("its-words", "words");
pub(crate) const KERNEL_WORD: Saying = saying!("kernel-word", "the kernel's word");
pub(crate) const KHZ_WHOLE_MHZ: Saying = saying!("khz-whole-mhz", "kHz, in whole MHz");
pub(crate) const KIBIBYTES_TIMES_1024: Saying =
    saying!("kibibytes-times-1024", "kibibytes times 1024");
pub(crate) const KIND_FILESYSTEM_DEVICE: Saying =
    saying!("kind-filesystem-device", "by the kind of filesystem and its device");
pub(crate) const LAST_FIELD: Saying = saying!("last-field", "the last field");
pub(crate) const LIST_CPU_NUMBERS: Saying = saying!("list-cpu-numbers", "a list of CPU numbers");
pub(crate) const LOOKED_WHOLE_ENTRY_POINT: Saying =
    saying!("looked-whole-entry-point", "looked at as a whole, with its entry point");
pub(crate) const MICROWATTS: Saying = saying!("microwatts", "microwatts");
pub(crate) const MILLIAMPERES: Saying = saying!("milliamperes", "milliamperes");
pub(crate) const MILLIVOLTS: Saying = saying!("millivolts", "millivolts");
pub(crate) const MT_S: Saying = saying!("mt-s", "MT/s");
pub(crate) const NAMES_FOLDER: Saying = saying!("names-folder", "the names in the folder");
pub(crate) const NAME_OF_THE_FOLDER: Saying = saying!("name-of-the-folder", "the folder's name");
pub(crate) const NOT_FOUND: Saying = saying!("not-found", "not found");
pub(crate) const NOW_WAS_MADE_HOLD: Saying =
    saying!("now-was-made-hold", "now, of what it was made to hold");
pub(crate) const NO_CPU_KNOWN_ONLINE: Saying =
    saying!("no-cpu-known-online", "no CPU is known to be online");
pub(crate) const NO_DEVICE_STANDS_BEHIND: Saying =
    saying!("no-device-stands-behind", "no device stands behind it");
pub(crate) const NO_ENCLOSURE_KERNEL_KNOWS_HOLDS: Saying =
    saying!("no-enclosure-kernel-knows-holds", "no enclosure that the kernel knows holds it");
pub(crate) const NO_FORM_DATE_KNOWN: Saying =
    saying!("no-form-date-known", "no form of a date that is known");
pub(crate) const NO_PCI_ADDRESS: Saying = saying!("no-pci-address", "gives no PCI address");
pub(crate) const NUMBER_1_NONE: Saying = saying!("number-1-none", "a number; -1 is none");
pub(crate) const NUMBER_FOLDER_NAME: Saying =
    saying!("number-folder-name", "the number in the folder's name");
pub(crate) const ONE_BRACKETS: Saying = saying!("one-brackets", "the one in brackets");
pub(crate) const ONE_IS_YES: Saying = saying!("one-is-yes", "1 is yes");
pub(crate) const ONLINE_CPUS_PACKAGE_CPUS_LIST: Saying =
    saying!("online-cpus-package-cpus-list", "the online CPUs in its package_cpus_list");
pub(crate) const ONLY_MMC_SD_CARDS: Saying =
    saying!("only-mmc-sd-cards", "only MMC and SD cards say it");
pub(crate) const ONLY_RAID_MEMBERS: Saying =
    saying!("only-raid-members", "only a RAID has members");
pub(crate) const PAGES: Saying = saying!("pages", "pages");
pub(crate) const PERCENT: Saying = saying!("percent", "percent");
pub(crate) const ROOT_CAN_READ: Saying = saying!("root-can-read", "root can read it");
pub(crate) const SECOND_FIELD: Saying = saying!("second-field", "the second field");
pub(crate) const STANDARD_NAME_CODE: Saying =
    saying!("standard-name-code", "the standard's name for the code");
pub(crate) const STRUCTURE_ENDS_BEFORE_FIELD: Saying =
    saying!("structure-ends-before-field", "the structure ends before this field");
pub(crate) const THIRD_FIELD: Saying = saying!("third-field", "the third field");
pub(crate) const THOUSANDTHS_DEGREE_CELSIUS: Saying =
    saying!("thousandths-degree-celsius", "thousandths of a degree Celsius");
pub(crate) const TYPE_6_NO_SUCH_FIELD: Saying =
    saying!("type-6-no-such-field", "type 6 has no such field");
pub(crate) const VALUE_WITHOUT_QUOTES: Saying =
    saying!("value-without-quotes", "the value without its quotes");
pub(crate) const ZONE_NAME_FOLDER: Saying =
    saying!("zone-name-folder", "the zone's name in the folder");
pub(crate) const USER_MAY_HAVE_NAMED: Saying =
    saying!("user-may-named", "its user may have named it");
