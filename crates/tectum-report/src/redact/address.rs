//! Pseudonyms of network addresses. Two addresses that lie on one network lie on one network again:
//! each bit is turned or kept by the key and the bits before it, so that what two addresses share at
//! their beginning, their pseudonyms share. What tells nothing stays: loopback, the unspecified
//! address, multicast, and the network of link-local addresses.

use std::net::{IpAddr, Ipv4Addr, Ipv6Addr};

use ring::hmac::Key;

use super::pseudonym::digest;

/// The pseudonym of an address.
pub(super) fn pseudonym(key: &Key, address: IpAddr) -> IpAddr {
    if address.is_loopback() || address.is_unspecified() || address.is_multicast() {
        return address;
    }
    if matches!(address, IpAddr::V6(v6) if v6.is_unicast_link_local() && v6.to_bits() << 64 == 0) {
        return address;
    }
    match address {
        IpAddr::V4(address) => {
            let bits = turned(key, u128::from(address.to_bits()) << 96, 8, 32);
            let [_, second, third, fourth] =
                u32::try_from(bits >> 96).map_or(address.octets(), u32::to_be_bytes);
            let first = first_octet(key, address.octets()[0]);
            Ipv4Addr::new(first, second, third, fourth).into()
        }
        IpAddr::V6(address) => {
            // The first 16 bits say what kind of address it is, and a registry at the most.
            let kept = if address.is_unicast_link_local() { 64 } else { 16 };
            Ipv6Addr::from_bits(turned(key, address.to_bits(), kept, 128)).into()
        }
    }
}

/// The first octet's pseudonym: turned until it is one that means nothing special.
fn first_octet(key: &Key, octet: u8) -> u8 {
    let special = |octet: u8| matches!(octet, 0 | 127 | 224..);
    let mut new = octet;
    // Turning is a permutation, so the way from an octet that is not special leads back to it.
    for _ in 0..256 {
        let bits = turned(key, u128::from(new) << 120, 0, 8);
        new = u8::try_from(bits >> 120).unwrap_or(octet);
        if !special(new) {
            return new;
        }
    }
    octet
}

/// The bits from `first` up to `last`, counted from the highest, turned by what stands before each.
fn turned(key: &Key, bits: u128, first: u32, last: u32) -> u128 {
    let mut new = bits;
    for at in first..last {
        let mask = 1u128 << (127 - at);
        let before = bits & !(mask | (mask - 1));
        let number = [u8::try_from(at).unwrap_or(0)];
        let digest = digest(key, &[b"address", &number, &before.to_be_bytes()]);
        if digest.first().is_some_and(|byte| byte & 1 == 1) {
            new ^= mask;
        }
    }
    new
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::{super::pseudonym::key, *};

    #[test]
    fn what_tells_nothing_stays() {
        for text in ["127.0.0.1", "0.0.0.0", "::", "::1", "ff02::1", "224.0.0.251", "fe80::"] {
            let address: IpAddr = text.parse().unwrap();
            assert_eq!(pseudonym(&key(b"key"), address), address);
        }
        let local = pseudonym(&key(b"key"), "fe80::5054:ff:fe7a:1001".parse().unwrap());
        assert!(local.to_string().starts_with("fe80::") && local.to_string().len() > 7);
        assert_ne!(local.to_string(), "fe80::5054:ff:fe7a:1001");
    }

    proptest! {
        #[test]
        fn a_shared_beginning_is_shared_again(one: u32, turn: u32, at in 0u32..32) {
            let other = one ^ (turn >> at);
            let shared = |a: Ipv4Addr, b: Ipv4Addr| (a.to_bits() ^ b.to_bits()).leading_zeros();
            let (one, other) = (Ipv4Addr::from_bits(one), Ipv4Addr::from_bits(other));
            let telling = |a: Ipv4Addr| !(a.is_loopback() || a.is_unspecified() || a.is_multicast());
            if telling(one) && telling(other) {
                let new = |address: Ipv4Addr| match pseudonym(&key(b"key"), address.into()) {
                    IpAddr::V4(new) => new,
                    IpAddr::V6(_) => unreachable!(),
                };
                let alike = shared(one, other);
                if alike >= 8 {
                    prop_assert_eq!(shared(new(one), new(other)), alike);
                }
                prop_assert!(telling(new(one)));
            }
        }
    }
}
