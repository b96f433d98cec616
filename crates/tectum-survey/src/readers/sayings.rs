//! What several sections say of where a value is from, or why it is missing: each said once, with the
//! code that stands for it in a report. What only one place says is declared there.

use tectum_report::fact::Saying;

pub(crate) const AS_UDEV_RECORDED: Saying = Saying::new("as-udev-recorded", "as udev recorded it");
pub(crate) const BEHIND_CARD_NAME: Saying =
    Saying::new("behind-card-name", "behind the card's name");
pub(crate) const BITS: Saying = Saying::new("bits", "bits");
pub(crate) const BITS_3_0: Saying = Saying::new("bits-3-0", "bits 3:0");
pub(crate) const BITS_4_0: Saying = Saying::new("bits-4-0", "bits 4:0");
pub(crate) const BITS_7_5: Saying = Saying::new("bits-7-5", "bits 7:5");
pub(crate) const BIT_7: Saying = Saying::new("bit-7", "bit 7");
pub(crate) const BLANK: Saying = Saying::new("blank", "is blank");
pub(crate) const BOARD_LINE: Saying = Saying::new("board-line", "the board's line");
pub(crate) const BYTES: Saying = Saying::new("bytes", "bytes");
pub(crate) const BYTES_ALL_ONES_UNKNOWN: Saying =
    Saying::new("bytes-all-ones-unknown", "bytes; all ones is unknown");
pub(crate) const BY_ITS_DATABASE: Saying = Saying::new("by-its-database", "by its database");
pub(crate) const CONTROLLER_NO_PCI_FUNCTION: Saying =
    Saying::new("controller-no-pci-function", "its controller is no PCI function");
pub(crate) const COUNTED: Saying = Saying::new("counted", "counted");
pub(crate) const DECIMAL_NUMBER: Saying = Saying::new("decimal-number", "a decimal number");
pub(crate) const DEVICE_LINK_LEADS: Saying =
    Saying::new("device-link-leads", "the device that the link leads to");
pub(crate) const DEVICE_NAME_FOLDER: Saying =
    Saying::new("device-name-folder", "the device's name in the folder");
pub(crate) const DISTINCT_CORE_CPUS_LIST_ONLINE: Saying =
    Saying::new("distinct-core-cpus-list-online", "the distinct core_cpus_list of its online CPUs");
pub(crate) const DOES_NOT_SAY_IT: Saying = Saying::new("does-not-say-it", "does not say it");
pub(crate) const DRIVER_LINK_LEADS: Saying =
    Saying::new("driver-link-leads", "the driver that the link leads to");
pub(crate) const EACH_VERSION_ONCE_OVER_ALL: Saying =
    Saying::new("each-version-once-over-all", "each version once, over all CPUs");
pub(crate) const EVERY_FILE_FOLDER: Saying =
    Saying::new("every-file-folder", "every file in the folder");
pub(crate) const EVERY_FOLDER_FOLDER: Saying =
    Saying::new("every-folder-folder", "every folder in the folder");
pub(crate) const EVERY_FOLDER_NAMED_NODE_NUMBER: Saying =
    Saying::new("every-folder-named-node-number", "every folder named node and a number");
pub(crate) const EVERY_LINE: Saying = Saying::new("every-line", "every line");
pub(crate) const EVERY_LINE_BUT_HEADING: Saying =
    Saying::new("every-line-but-heading", "every line but the heading");
pub(crate) const EVERY_NAME_FOLDER: Saying =
    Saying::new("every-name-folder", "every name in the folder");
pub(crate) const FIFTH_FIELD_ESCAPES_PUT_BACK: Saying =
    Saying::new("fifth-field-escapes-put-back", "the fifth field, escapes put back");
pub(crate) const FILE: Saying = Saying::new("file", "the file is there");
pub(crate) const FILE_NAME: Saying = Saying::new("file-name", "the file's name");
pub(crate) const FILE_TEXT_TRIMMED: Saying =
    Saying::new("file-text-trimmed", "the file's text, trimmed");
pub(crate) const FIRST_FIELD: Saying = Saying::new("first-field", "the first field");
pub(crate) const FIRST_FIELD_BEHIND_HYPHEN: Saying =
    Saying::new("first-field-behind-hyphen", "the first field behind the hyphen");
pub(crate) const FOLDER_NAME: Saying = Saying::new("folder-name", "the folder's name, `!` for `/`");
pub(crate) const FOURTH_FIELD: Saying = Saying::new("fourth-field", "the fourth field");
pub(crate) const FOUR_HEXADECIMAL_DIGITS: Saying =
    Saying::new("four-hexadecimal-digits", "four hexadecimal digits");
pub(crate) const FUNCTION_NAME_FOLDER: Saying =
    Saying::new("function-name-folder", "the function's name in the folder");
pub(crate) const GIVES_NO: Saying = Saying::new("gives-no", "gives no {}");
pub(crate) const HEXADECIMAL: Saying = Saying::new("hexadecimal", "hexadecimal");
pub(crate) const HEXADECIMAL_BYTES: Saying =
    Saying::new("hexadecimal-bytes", "hexadecimal, in bytes");
pub(crate) const INTERFACE_NAME_FOLDER: Saying =
    Saying::new("interface-name-folder", "the interface's name in the folder");
pub(crate) const ITS_WORDS: Saying = Saying::new("its-words", "words");
pub(crate) const KERNEL_WORD: Saying = Saying::new("kernel-word", "the kernel's word");
pub(crate) const KHZ_WHOLE_MHZ: Saying = Saying::new("khz-whole-mhz", "kHz, in whole MHz");
pub(crate) const KIBIBYTES_TIMES_1024: Saying =
    Saying::new("kibibytes-times-1024", "kibibytes times 1024");
pub(crate) const KIND_FILESYSTEM_DEVICE: Saying =
    Saying::new("kind-filesystem-device", "by the kind of filesystem and its device");
pub(crate) const LAST_FIELD: Saying = Saying::new("last-field", "the last field");
pub(crate) const LIST_CPU_NUMBERS: Saying =
    Saying::new("list-cpu-numbers", "a list of CPU numbers");
pub(crate) const LOOKED_WHOLE_ENTRY_POINT: Saying =
    Saying::new("looked-whole-entry-point", "looked at as a whole, with its entry point");
pub(crate) const MICROWATTS: Saying = Saying::new("microwatts", "microwatts");
pub(crate) const MILLIAMPERES: Saying = Saying::new("milliamperes", "milliamperes");
pub(crate) const MILLIVOLTS: Saying = Saying::new("millivolts", "millivolts");
pub(crate) const MT_S: Saying = Saying::new("mt-s", "MT/s");
pub(crate) const NAMES_FOLDER: Saying = Saying::new("names-folder", "the names in the folder");
pub(crate) const NAME_OF_THE_FOLDER: Saying =
    Saying::new("name-of-the-folder", "the folder's name");
pub(crate) const NOT_FOUND: Saying = Saying::new("not-found", "not found");
pub(crate) const NOW_WAS_MADE_HOLD: Saying =
    Saying::new("now-was-made-hold", "now, of what it was made to hold");
pub(crate) const NO_CPU_KNOWN_ONLINE: Saying =
    Saying::new("no-cpu-known-online", "no CPU is known to be online");
pub(crate) const NO_DEVICE_STANDS_BEHIND: Saying =
    Saying::new("no-device-stands-behind", "no device stands behind it");
pub(crate) const NO_ENCLOSURE_KERNEL_KNOWS_HOLDS: Saying =
    Saying::new("no-enclosure-kernel-knows-holds", "no enclosure that the kernel knows holds it");
pub(crate) const NO_FORM_DATE_KNOWN: Saying =
    Saying::new("no-form-date-known", "no form of a date that is known");
pub(crate) const NO_PCI_ADDRESS: Saying = Saying::new("no-pci-address", "gives no PCI address");
pub(crate) const NUMBER_1_NONE: Saying = Saying::new("number-1-none", "a number; -1 is none");
pub(crate) const NUMBER_FOLDER_NAME: Saying =
    Saying::new("number-folder-name", "the number in the folder's name");
pub(crate) const ONE_BRACKETS: Saying = Saying::new("one-brackets", "the one in brackets");
pub(crate) const ONE_IS_YES: Saying = Saying::new("one-is-yes", "1 is yes");
pub(crate) const ONLINE_CPUS_PACKAGE_CPUS_LIST: Saying =
    Saying::new("online-cpus-package-cpus-list", "the online CPUs in its package_cpus_list");
pub(crate) const ONLY_MMC_SD_CARDS: Saying =
    Saying::new("only-mmc-sd-cards", "only MMC and SD cards say it");
pub(crate) const ONLY_RAID_MEMBERS: Saying =
    Saying::new("only-raid-members", "only a RAID has members");
pub(crate) const PAGES: Saying = Saying::new("pages", "pages");
pub(crate) const PERCENT: Saying = Saying::new("percent", "percent");
pub(crate) const ROOT_CAN_READ: Saying = Saying::new("root-can-read", "root can read it");
pub(crate) const SECOND_FIELD: Saying = Saying::new("second-field", "the second field");
pub(crate) const STANDARD_NAME_CODE: Saying =
    Saying::new("standard-name-code", "the standard's name for the code");
pub(crate) const STRUCTURE_ENDS_BEFORE_FIELD: Saying =
    Saying::new("structure-ends-before-field", "the structure ends before this field");
pub(crate) const THIRD_FIELD: Saying = Saying::new("third-field", "the third field");
pub(crate) const THOUSANDTHS_DEGREE_CELSIUS: Saying =
    Saying::new("thousandths-degree-celsius", "thousandths of a degree Celsius");
pub(crate) const TYPE_6_NO_SUCH_FIELD: Saying =
    Saying::new("type-6-no-such-field", "type 6 has no such field");
pub(crate) const VALUE_WITHOUT_QUOTES: Saying =
    Saying::new("value-without-quotes", "the value without its quotes");
pub(crate) const ZONE_NAME_FOLDER: Saying =
    Saying::new("zone-name-folder", "the zone's name in the folder");
