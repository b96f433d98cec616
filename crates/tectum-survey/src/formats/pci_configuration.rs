//! A PCI function's configuration space (PCI Local Bus Specification 3.0 clause 6; PCI Code and ID
//! Assignment Specification for the capabilities' ids), as the kernel shows it in `config`.
//!
//! Root is given the whole; others the first 64 bytes, in which no capability stands.

/// The standard header and the list of capabilities.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Configuration {
    /// What the header describes.
    pub header: Header,
    /// Whether the device has more than one function.
    pub several_functions: bool,
    /// The command register.
    pub command: u16,
    /// The status register.
    pub status: u16,
    /// Which of its four wires it interrupts by, 1 to 4; 0 where by none.
    pub interrupt_pin: u8,
    /// For a bridge: the bus above, the bus below, and the highest bus below.
    pub buses: Option<[u8; 3]>,
    /// The capabilities in the order of the list; `None` where the bytes end before them.
    pub capabilities: Option<Vec<Capability>>,
}

/// What a header describes.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Header {
    /// A device.
    Device,
    /// A bridge between PCI buses.
    Bridge,
    /// A bridge to a CardBus.
    CardBus,
    /// Anything else, by its number.
    Other(u8),
}

/// One capability.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Capability {
    /// Where it stands.
    pub offset: u8,
    /// Its id.
    pub id: u8,
}

/// Length of the standard header.
pub const HEADER: usize = 64;

/// Bits of the command register (clause 6.2.2).
const COMMAND: [(u16, &str); 7] = [
    (0, "I/O space"),
    (1, "memory space"),
    (2, "bus master"),
    (4, "memory write and invalidate"),
    (6, "parity error response"),
    (8, "system error"),
    (10, "legacy interrupt off"),
];

/// Bits of the status register that tell of errors (clause 6.2.3).
const ERRORS: [(u16, &str); 6] = [
    (8, "master data parity error"),
    (11, "signalled target abort"),
    (12, "received target abort"),
    (13, "received master abort"),
    (14, "signalled system error"),
    (15, "detected parity error"),
];

impl Configuration {
    /// Reads the bytes; `None` where there is not even a standard header.
    ///
    /// A list of capabilities that leads out of the bytes or round in a circle ends there.
    pub fn parse(bytes: &[u8]) -> Option<Self> {
        let header = bytes.get(..HEADER)?;
        let byte = |at: usize| header.get(at).copied().unwrap_or(0);
        let word = |at: usize| u16::from_le_bytes([byte(at), byte(at + 1)]);
        let kind = match byte(0x0E) & 0x7F {
            0 => Header::Device,
            1 => Header::Bridge,
            2 => Header::CardBus,
            other => Header::Other(other),
        };
        let status = word(0x06);
        let first = match kind {
            Header::CardBus => byte(0x14),
            _ => byte(0x34),
        };
        let capabilities = match status & 0x10 {
            0 => Some(Vec::new()),
            _ if bytes.len() <= HEADER => None,
            _ => Some(capabilities(bytes, first)),
        };
        Some(Self {
            header: kind,
            several_functions: byte(0x0E) & 0x80 != 0,
            command: word(0x04),
            status,
            interrupt_pin: byte(0x3D),
            buses: (kind == Header::Bridge).then(|| [byte(0x18), byte(0x19), byte(0x1A)]),
            capabilities,
        })
    }

    /// What the command register allows, in words.
    pub fn allowed(&self) -> Vec<&'static str> {
        set(self.command, &COMMAND)
    }

    /// The errors that the status register tells of.
    pub fn errors(&self) -> Vec<&'static str> {
        set(self.status, &ERRORS)
    }
}

fn set(register: u16, bits: &[(u16, &'static str)]) -> Vec<&'static str> {
    bits.iter().filter(|(bit, _)| register >> bit & 1 == 1).map(|(_, name)| *name).collect()
}

fn capabilities(bytes: &[u8], first: u8) -> Vec<Capability> {
    let mut found: Vec<Capability> = Vec::new();
    // The lowest two bits are reserved.
    let mut at = first & 0xFC;
    while usize::from(at) >= HEADER && found.iter().all(|capability| capability.offset != at) {
        let (Some(id), Some(next)) = (bytes.get(usize::from(at)), bytes.get(usize::from(at) + 1))
        else {
            break;
        };
        // All ones is what an absent function answers.
        if *id == 0xFF {
            break;
        }
        found.push(Capability { offset: at, id: *id });
        at = next & 0xFC;
    }
    found
}

impl Capability {
    /// The standard's name for the id.
    pub fn name(self) -> Option<&'static str> {
        Some(match self.id {
            0x01 => "power management",
            0x02 => "AGP",
            0x03 => "vital product data",
            0x04 => "slot identification",
            0x05 => "message-signalled interrupts",
            0x06 => "CompactPCI hot swap",
            0x07 => "PCI-X",
            0x08 => "HyperTransport",
            0x09 => "vendor-specific",
            0x0A => "debug port",
            0x0B => "CompactPCI resource control",
            0x0C => "hot plug",
            0x0D => "bridge subsystem ids",
            0x0E => "AGP 8x",
            0x0F => "secure device",
            0x10 => "PCI Express",
            0x11 => "MSI-X",
            0x12 => "SATA data and index",
            0x13 => "advanced features",
            0x14 => "enhanced allocation",
            0x15 => "flattening portal bridge",
            _ => return None,
        })
    }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    fn space() -> Vec<u8> {
        let mut bytes = vec![0u8; 256];
        bytes[0x04] = 0x07;
        bytes[0x06] = 0x10;
        bytes[0x0E] = 0x80;
        bytes[0x34] = 0x40;
        bytes[0x3D] = 1;
        bytes[0x40..0x42].copy_from_slice(&[0x01, 0x50]);
        bytes[0x50..0x52].copy_from_slice(&[0x10, 0x00]);
        bytes
    }

    #[test]
    fn capabilities_are_followed_in_their_order() {
        let read = Configuration::parse(&space()).unwrap();
        assert_eq!((read.header, read.several_functions), (Header::Device, true));
        assert_eq!(read.allowed(), ["I/O space", "memory space", "bus master"]);
        let names: Vec<_> = read.capabilities.unwrap().iter().map(|it| it.name()).collect();
        assert_eq!(names, [Some("power management"), Some("PCI Express")]);
    }

    #[test]
    fn a_list_that_turns_round_ends() {
        let mut bytes = space();
        bytes[0x51] = 0x40;
        assert_eq!(Configuration::parse(&bytes).unwrap().capabilities.unwrap().len(), 2);
    }

    #[test]
    fn the_first_64_bytes_hold_no_capabilities() {
        let read = Configuration::parse(&space()[..64]).unwrap();
        assert_eq!(read.capabilities, None);
        let mut none = space();
        none[0x06] = 0;
        assert_eq!(Configuration::parse(&none[..64]).unwrap().capabilities, Some(Vec::new()));
        assert_eq!(Configuration::parse(&none[..63]), None);
    }

    #[test]
    fn a_bridge_tells_its_buses() {
        let mut bytes = space();
        bytes[0x0E] = 1;
        bytes[0x18..0x1B].copy_from_slice(&[0, 3, 5]);
        assert_eq!(Configuration::parse(&bytes).unwrap().buses, Some([0, 3, 5]));
    }

    proptest! {
        #[test]
        fn no_bytes_make_it_panic(bytes in proptest::collection::vec(any::<u8>(), 0..300)) {
            if let Some(read) = Configuration::parse(&bytes) {
                let _ = (read.allowed(), read.errors());
                prop_assert!(read.capabilities.is_none_or(|all| all.len() <= 48));
            }
        }
    }
}
