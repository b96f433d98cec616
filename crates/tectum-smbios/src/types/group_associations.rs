//! Type 14, Group Associations (clause 7.15).

use crate::{Handle, Text, field::structure};

structure! {
    /// Structures that belong together.
    GroupAssociations = 14, "Group Associations" {
        /// The group's name.
        0x04 group_name: Text<'a>,
    }
}

/// One member of a group.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct GroupMember {
    /// The type of its structure.
    pub kind: u8,
    /// The handle of its structure.
    pub handle: Handle,
}

impl<'a> GroupAssociations<'a> {
    /// The members: as many groups of three bytes as the structure's length holds.
    pub fn members(&self) -> impl Iterator<Item = GroupMember> + use<'a> {
        let members = self.structure().formatted().get(5..).unwrap_or_default();
        members.chunks_exact(3).filter_map(|member| match member {
            [kind, low, high] => {
                Some(GroupMember { kind: *kind, handle: Handle(u16::from_le_bytes([*low, *high])) })
            }
            _ => None,
        })
    }
}
