//! Arguments that are described when they are asked for.

use std::ops::Deref;

use clap::{ArgMatches, Args, Command, Error, FromArgMatches, builder::Resettable};

use super::Common;

/// A command's arguments, described once that command is the one that runs, or is told about: to describe
/// all of every command takes longer than most of them run.
#[derive(Debug)]
pub(crate) struct Later<A>(A);

impl<A> Deref for Later<A> {
    type Target = A;

    fn deref(&self) -> &A {
        &self.0
    }
}

impl<A: FromArgMatches> FromArgMatches for Later<A> {
    fn from_arg_matches(matches: &ArgMatches) -> Result<Self, Error> {
        A::from_arg_matches(matches).map(Self)
    }

    fn from_arg_matches_mut(matches: &mut ArgMatches) -> Result<Self, Error> {
        A::from_arg_matches_mut(matches).map(Self)
    }

    fn update_from_arg_matches(&mut self, matches: &ArgMatches) -> Result<(), Error> {
        self.0.update_from_arg_matches(matches)
    }
}

impl<A: Args> Args for Later<A> {
    fn augment_args(command: Command) -> Command {
        command.defer(|command| described(command, A::augment_args))
    }

    fn augment_args_for_update(command: Command) -> Command {
        command.defer(|command| described(command, A::augment_args_for_update))
    }
}

/// A command with its own arguments and those that every command takes. To hand these down to each of them, whichever
/// runs, is most of what describing them costs.
fn described(command: Command, own: fn(Command) -> Command) -> Command {
    let about = command.get_about().cloned();
    let long_about = command.get_long_about().cloned();
    let mut command =
        own(command).about(Resettable::from(about)).long_about(Resettable::from(long_about));
    for argument in Common::augment_args(Command::default()).get_arguments() {
        command = command.arg(argument.clone().global(true));
    }
    command
}
