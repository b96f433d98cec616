//! Codes: short, stable words of the report's own, declared once with what each means.

/// Declares an enumeration whose values are codes of the report. The documentation of a variant is
/// what the code means, in the schema and wherever people read it.
macro_rules! codes {
    (
        $(#[doc = $doc:literal])*
        $name:ident { $($(#[doc = $meaning:literal])+ $variant:ident = $code:literal,)+ }
    ) => {
        $(#[doc = $doc])*
        #[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
        pub enum $name {
            $($(#[doc = $meaning])+ $variant,)+
        }

        impl $name {
            /// Every one, in the order of the declaration.
            pub const ALL: &'static [Self] = &[$(Self::$variant,)+];

            /// The code used in reports.
            pub fn code(self) -> &'static str {
                match self {
                    $(Self::$variant => $code,)+
                }
            }

            /// What the code means, as a sentence.
            pub fn meaning(self) -> &'static str {
                match self {
                    $(Self::$variant => concat!($($meaning),+).trim_ascii_start(),)+
                }
            }

            /// The one that a code names.
            pub fn from_code(code: &str) -> Option<Self> {
                match code {
                    $($code => Some(Self::$variant),)+
                    _ => None,
                }
            }
        }

        impl std::fmt::Display for $name {
            fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
                f.write_str(self.code())
            }
        }

        impl serde::Serialize for $name {
            fn serialize<S: serde::Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
                serializer.serialize_str(self.code())
            }
        }

        impl<'de> serde::Deserialize<'de> for $name {
            fn deserialize<D: serde::Deserializer<'de>>(deserializer: D) -> Result<Self, D::Error> {
                let code = std::borrow::Cow::<'de, str>::deserialize(deserializer)?;
                Self::from_code(&code).ok_or_else(|| {
                    serde::de::Error::unknown_variant(&code, &[$($code,)+])
                })
            }
        }

        impl schemars::JsonSchema for $name {
            fn schema_name() -> std::borrow::Cow<'static, str> {
                stringify!($name).into()
            }

            fn json_schema(_: &mut schemars::SchemaGenerator) -> schemars::Schema {
                schemars::json_schema!({
                    "oneOf": [$({
                        "const": $code,
                        "description": concat!($($meaning),+).trim_ascii_start(),
                    },)+],
                })
            }
        }

        impl $crate::leaf::Leaf for $name {
            const SHAPE: $crate::leaf::LeafShape = {
                const COUNT: usize = [$($code,)+].len();
                static CODES: [(&str, &str); COUNT] = [$(($code, concat!($($meaning),+)),)+];
                $crate::leaf::LeafShape::own($crate::leaf::JsonForm::Code(&CODES))
            };

            fn to_json(&self) -> serde_json::Value {
                serde_json::Value::from(self.code())
            }

            fn from_json(json: &serde_json::Value) -> Option<Self> {
                Self::from_code(json.as_str()?)
            }
        }
    };
}

pub(crate) use codes;
