//! Whether a path names what stands at the end of a way: through a report, whose elements have names, or through
//! declarations, where an element may be called anything.

use std::{borrow::Cow, collections::HashSet, sync::LazyLock};

use super::{
    condition::{Condition, Verdict},
    naming::Naming,
    path::{Part, Path, ROOTS},
};
use crate::{
    declare::{Described, FieldShape, Kind, Record, Shape},
    fact::Gap,
    model::{Inventory, Machine, Readings},
};

/// A step of the way to a value: what it may be called, and the element of a list that it is. Of an element that
/// may be called anything there are no names.
pub(super) struct Step<'a> {
    pub(super) names: Vec<Cow<'a, str>>,
    pub(super) element: Option<&'a dyn Record>,
    /// Of an element.
    pub(super) shape: Option<&'static Shape>,
}

impl<'a> Step<'a> {
    pub(super) fn of(names: Vec<Cow<'a, str>>) -> Self {
        Self { names, element: None, shape: None }
    }

    /// Whether it is a root whose fields are sections.
    pub(super) fn is_of_sections(&self) -> bool {
        self.names.iter().any(|name| name != "machine")
    }
}

/// A step of a way through declarations.
#[derive(Debug, Clone, Copy)]
pub(crate) enum Along<'a> {
    /// What is called so.
    Named(&'a str),
    /// A field.
    Field(&'a FieldShape),
    /// An element of a list, whatever it is called.
    Element(&'static Shape),
}

impl Path {
    /// Whether it may name anything at the end of a way of fields' names that begins with a root, or beneath it.
    pub(crate) fn may_lead_into(&self, way: &[&str]) -> bool {
        let way: Vec<Step<'_>> = way.iter().map(|name| Step::of(vec![(*name).into()])).collect();
        self.may_lead(&way)
    }

    /// Whether it may name anything at the end of a way through declarations that begins with a root, or beneath it.
    pub(crate) fn may_lead_along<'a>(&self, way: &[Along<'a>]) -> bool {
        let names = |step: &Along<'a>| match *step {
            Along::Named(name) => vec![name.into()],
            Along::Field(field) => {
                std::iter::once(field.name).chain(field.short_name()).map(Cow::Borrowed).collect()
            }
            Along::Element(_) => Vec::new(),
        };
        let shape = |step: &Along<'a>| match *step {
            Along::Element(shape) => Some(shape),
            Along::Named(_) | Along::Field(_) => None,
        };
        let way: Vec<Step<'_>> = way
            .iter()
            .map(|step| Step { names: names(step), element: None, shape: shape(step) })
            .collect();
        self.may_lead(&way)
    }

    /// Whether it may name what is declared at a path, with `*` for elements, whatever these are called; a root that is
    /// not named is the inventory.
    pub fn holds(&self, declared: &str) -> bool {
        let roots = [
            ("machine", Machine::SHAPE),
            ("readings", Readings::SHAPE),
            ("inventory", Inventory::SHAPE),
        ];
        let within = |(root, shape): (&'static str, &'static Shape)| {
            let rest = declared.strip_prefix(root)?.strip_prefix('.')?;
            Some((root, shape, rest))
        };
        let (root, shape, rest) =
            roots.into_iter().find_map(within).unwrap_or(("inventory", Inventory::SHAPE, declared));
        let way = declared_way(root, shape, rest);
        way.is_some_and(|way| self.holds_of(&way, may_name))
    }

    /// The conditions of the way's last element that it gives no answer to.
    pub(super) fn not_judged<'a>(&self, way: &[Step<'a>]) -> Vec<(&'static str, &'a Gap)> {
        let Some((Step { element: Some(element), .. }, before)) = way.split_last() else {
            return Vec::new();
        };
        let mut gaps = Vec::new();
        for condition in self.conditions_at(before) {
            match condition.judge(*element) {
                Verdict::NotKnown(field, gap) => gaps.push((field, gap)),
                Verdict::Met => {}
                // One that is not met decides, whatever the others would say.
                Verdict::NotMet => return Vec::new(),
            }
        }
        gaps
    }

    /// The conditions on the elements of the list at the end of a way.
    fn conditions_at(&self, way: &[Step<'_>]) -> &[Condition] {
        let without_root = way.get(1..).unwrap_or_default();
        for (at, part) in self.parts.iter().enumerate() {
            let Part::Named(_, conditions) = part else { continue };
            let before = self.parts.get(..=at).unwrap_or_default();
            let leads = || leads_to(before, way) || leads_to(before, without_root);
            if !conditions.is_empty() && leads() {
                return conditions;
            }
        }
        &[]
    }

    /// What a value's field must be called that it names at the end of so many steps, each of one part; nothing where
    /// the name alone does not tell. Most fields are told by that.
    pub(super) fn last_name(&self, steps: usize) -> Option<&Naming> {
        // A condition may leave out the element that it chooses, and a pattern may name a root.
        let plain =
            |part: &Part| matches!(part, Part::Named(_, conditions) if conditions.is_empty());
        let (Some(Part::Named(Naming::Name(first), _)), Some(Part::Named(last, _))) =
            (self.parts.first(), self.parts.last())
        else {
            return None;
        };
        let from_root = ROOTS.contains(&first.as_str());
        // A path that ends above values names all beneath it.
        let ends_above = self.parts.len() + usize::from(!from_root) < steps;
        (!ends_above && self.parts.iter().all(plain)).then_some(last)
    }

    /// Whether any of its parts may be a piece of the name of an element of this shape; the first element stands in a
    /// list of a section.
    pub(super) fn may_part_names(&self, shape: Option<&'static Shape>) -> bool {
        let behind_list = self.parts.get(2..).unwrap_or_default();
        behind_list.windows(2).any(|parts| may_be_joined(parts, shape))
    }

    /// Whether it names the value at the end of a way, or something on that way.
    pub(super) fn names(&self, way: &[Step<'_>]) -> bool {
        self.holds_of(way, matches)
    }

    /// Whether anything at the end of a way or beneath it may be named: what is not is not looked at.
    pub(super) fn may_lead(&self, way: &[Step<'_>]) -> bool {
        self.holds_of(way, may_lead)
    }

    /// Whether it may name any element of the list at the end of a way, whatever that is called.
    pub(super) fn may_lead_to_any(&self, way: &mut Vec<Step<'_>>) -> bool {
        // Nothing is called so.
        way.push(Step::of(vec!["\0".into()]));
        let any = self.may_lead(way);
        way.pop();
        any
    }

    /// Whether anything may be named beneath the list at the end of a way, of whose elements only their shape is known.
    pub(super) fn may_name_within(&self, way: &mut Vec<Step<'_>>, shape: &'static Shape) -> bool {
        way.push(Step { names: Vec::new(), element: None, shape: Some(shape) });
        let found = self.may_name_a_field(way, shape);
        way.pop();
        found
    }

    fn may_name_a_field(&self, way: &mut Vec<Step<'_>>, shape: &'static Shape) -> bool {
        if !self.may_lead(way) {
            return false;
        }
        shape.fields.iter().any(|field| {
            let names = std::iter::once(field.name).chain(field.short_name()).map(Cow::Borrowed);
            way.push(Step::of(names.collect()));
            let found = match field.kind {
                Kind::Leaf(_) => self.holds_of(way, may_name),
                Kind::Record(inner) | Kind::Optional(inner) => self.may_name_a_field(way, inner),
                Kind::List(inner) => {
                    self.holds_of(way, may_name) || self.may_name_within(way, inner)
                }
            };
            way.pop();
            found
        })
    }

    fn holds_of(&self, way: &[Step<'_>], holds: fn(&[Part], &[Step<'_>]) -> bool) -> bool {
        if self.is_pointer {
            let by_number: Vec<Step<'_>> = way
                .iter()
                .map(|step| Step {
                    names: step.names.iter().take(1).cloned().collect(),
                    element: step.element,
                    shape: step.shape,
                })
                .collect();
            return holds(&self.parts, &by_number);
        }
        let without_root = way.get(1..).unwrap_or_default();
        holds(&self.parts, way) || holds(&self.parts, without_root)
    }
}

/// The way along names from a root whose shape it is, with `*` for an element; nothing where nothing is declared there.
fn declared_way(
    root: &'static str,
    shape: &'static Shape,
    names: &str,
) -> Option<Vec<Step<'static>>> {
    let mut way = vec![Step::of(vec![root.into()])];
    let mut shape = Some(shape);
    let mut element = None;
    for name in names.split('.') {
        if name == "*" {
            let inner: &'static Shape = element.take()?;
            way.push(Step { names: Vec::new(), element: None, shape: Some(inner) });
            shape = Some(inner);
            continue;
        }
        let own = shape.take()?;
        let field = own.fields.get(own.index_of(name)?)?;
        let names = std::iter::once(field.name).chain(field.short_name());
        way.push(Step::of(names.map(Cow::Borrowed).collect()));
        match field.kind {
            Kind::Leaf(_) => {}
            Kind::Record(inner) | Kind::Optional(inner) => shape = Some(inner),
            Kind::List(inner) => element = Some(inner),
        }
    }
    Some(way)
}

/// Whether the first two of some parts may be pieces of one name of an element of this shape. A pattern takes a name
/// whole where a field's name stands behind it, and one that names any also before another pattern.
fn may_be_joined(parts: &[Part], shape: Option<&'static Shape>) -> bool {
    let is_field = |name: &str| {
        let fields = shape.into_iter().flat_map(|shape| shape.fields);
        fields.into_iter().any(|field| field.name == name || field.short_name() == Some(name))
    };
    match parts {
        [Part::Named(Naming::Any | Naming::Form(_), _), Part::Named(Naming::Name(name), _), ..] => {
            !is_field(name)
        }
        [Part::Named(Naming::Any, _), ..] => false,
        [_, _, ..] => true,
        _ => false,
    }
}

/// What is left of the parts behind those that a name with points in it takes up, if it does: the
/// points of `0000:82:00.0` part it like any other.
fn several<'a>(parts: &'a [Part], name: &str, shape: Option<&'static Shape>) -> Option<&'a [Part]> {
    // Nearly no name holds a point, and of those that do hardly any piece is what a path names.
    if !name.contains('.') {
        return None;
    }
    let (own, rest) = parts.split_at_checked(name.split('.').count())?;
    let fits = |(part, piece): (&Part, &str)| match part {
        Part::Named(naming, _) => naming.is_match(piece),
        Part::Deep => false,
    };
    let all_fit = own.iter().zip(name.split('.')).all(fits);
    (all_fit && may_be_joined(parts, shape)).then_some(rest)
}

/// Whether conditions hold of an element.
fn all_met(conditions: &[Condition], element: &dyn Record) -> bool {
    conditions.iter().all(|condition| matches!(condition.judge(element), Verdict::Met))
}

/// Whether parts, the last of them with conditions, lead to the list at the end of a way, or to any of
/// its elements.
fn leads_to(parts: &[Part], way: &[Step<'_>]) -> bool {
    let bare: Vec<Part> = parts
        .iter()
        .map(|part| match part {
            Part::Deep => Part::Deep,
            Part::Named(naming, _) => Part::Named(naming.clone(), Vec::new()),
        })
        .collect();
    let (list, element) = (matches(&bare, way), bare.split_last());
    let by_element = element.is_some_and(|(_, before)| !before.is_empty() && matches(before, way));
    list || by_element
}

fn matches(parts: &[Part], way: &[Step<'_>]) -> bool {
    match parts.split_first() {
        None => true,
        Some((Part::Deep, rest)) => {
            // Nothing behind it: everything beneath. Else it takes as many steps as it must.
            rest.is_empty()
                || (0..=way.len()).any(|steps| matches(rest, way.get(steps..).unwrap_or_default()))
        }
        Some((Part::Named(naming, conditions), rest)) => match way.split_first() {
            None => false,
            Some((step, ahead)) => step.names.iter().any(|name| {
                (naming.is_match(name) && meets(conditions, step, rest, ahead))
                    || several(parts, name, step.shape).is_some_and(|rest| matches(rest, ahead))
            }),
        },
    }
}

/// Whether parts may name something beneath the end of a way, whatever conditions say.
fn may_lead(parts: &[Part], way: &[Step<'_>]) -> bool {
    let (Some((part, rest)), Some((step, ahead))) = (parts.split_first(), way.split_first()) else {
        return true;
    };
    let Part::Named(naming, conditions) = part else { return true };
    if step.names.is_empty() {
        // A name with points in it takes up several parts.
        let takes = |count: usize| parts.get(count..).is_some_and(|rest| may_lead(rest, ahead));
        let most = if may_be_joined(parts, step.shape) { parts.len() } else { 1 };
        return !conditions.is_empty() || (1..=most).any(takes);
    }
    // A condition may stand behind the name of a list, and leave out its elements'.
    let element_left_out = || {
        !conditions.is_empty() && ahead.split_first().is_none_or(|(_, ahead)| may_lead(rest, ahead))
    };
    step.names.iter().any(|name| {
        (naming.is_match(name) && (may_lead(rest, ahead) || element_left_out()))
            || several(parts, name, step.shape).is_some_and(|rest| may_lead(rest, ahead))
    })
}

/// Whether parts may name what is at the end of a way, or something on it, whatever conditions say and elements that
/// have no names are called.
fn may_name(parts: &[Part], way: &[Step<'_>]) -> bool {
    may_name_behind(None, parts, way)
}

/// The same behind another part.
fn may_name_behind(before: Option<&Part>, parts: &[Part], way: &[Step<'_>]) -> bool {
    let Some((part, rest)) = parts.split_first() else { return true };
    let may_name = |rest: &[Part], ahead: &[Step<'_>]| may_name_behind(Some(part), rest, ahead);
    let Part::Named(naming, conditions) = part else {
        let mut ahead = (0..=way.len()).map(|steps| way.get(steps..).unwrap_or_default());
        return rest.is_empty() || ahead.any(|ahead| may_name(rest, ahead));
    };
    let Some((step, ahead)) = way.split_first() else { return false };
    if step.names.is_empty() {
        // `**.serial` asks for values, and not for elements of any list that somebody called so.
        let list_is_named = matches!(before, Some(Part::Named(Naming::Name(_), _)));
        if !list_is_named && rather_a_field(naming) {
            return false;
        }
        // A name with points in it takes up several parts, none of which is what a field is called.
        let takes = |count: usize| parts.get(count..).is_some_and(|rest| may_name(rest, ahead));
        let own = |part: &&Part| match part {
            Part::Named(naming @ Naming::Name(_), _) => !rather_a_field(naming),
            _ => false,
        };
        let most = parts.iter().take_while(own).count().max(1);
        return (1..=most).any(takes);
    }
    // A condition may stand behind the name of a list, and leave out its elements'.
    let element_left_out = || {
        !conditions.is_empty()
            && ahead.split_first().is_some_and(|(_, ahead)| may_name(rest, ahead))
    };
    step.names.iter().any(|name| {
        (naming.is_match(name) && (may_name(rest, ahead) || element_left_out()))
            || several(parts, name, step.shape).is_some_and(|rest| may_name(rest, ahead))
    })
}

/// Whether a name is rather a field's than an element's: a pattern, or what some field is called.
fn rather_a_field(naming: &Naming) -> bool {
    static FIELDS: LazyLock<HashSet<&str>> = LazyLock::new(|| {
        fn collect(shape: &'static Shape, all: &mut HashSet<&str>) {
            for field in shape.fields {
                all.extend(std::iter::once(field.name).chain(field.short_name()));
                field.kind.inner().into_iter().for_each(|inner| collect(inner, all));
            }
        }
        let mut all = HashSet::new();
        for root in [Machine::SHAPE, Inventory::SHAPE, Readings::SHAPE] {
            collect(root, &mut all);
        }
        all
    });
    match naming {
        Naming::Name(name) => FIELDS.contains(name.as_str()),
        Naming::Form(_) => true,
        Naming::Any => false,
    }
}

/// Whether the element that a part names meets the part's conditions, and the rest leads on: the
/// element itself, or the one behind the name of its list.
fn meets(conditions: &[Condition], step: &Step<'_>, rest: &[Part], ahead: &[Step<'_>]) -> bool {
    if conditions.is_empty() {
        return matches(rest, ahead);
    }
    match (step.element, ahead.split_first()) {
        (Some(element), _) => all_met(conditions, element) && matches(rest, ahead),
        (None, Some((Step { element: Some(element), .. }, ahead))) => {
            all_met(conditions, *element) && matches(rest, ahead)
        }
        _ => false,
    }
}
