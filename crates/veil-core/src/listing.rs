//! The page of all stages, for people: written from what they declare.

use std::fmt::Write as _;

use crate::controls::AnyControl;
use crate::spec::{AmountRule, Family, Gives, Passes, StageSpec};
use crate::stages;

const FAMILIES: [(Family, &str); 8] = [
    (Family::Source, "Sources"),
    (Family::Time, "Time"),
    (Family::Field, "Fields and mattes"),
    (Family::Map, "Maps"),
    (Family::Warp, "Warps"),
    (Family::Light, "Blurs and light"),
    (Family::Colour, "Colour"),
    (Family::Joining, "Joining"),
];

/// Every stage by its family, with what it takes and gives and all its controls, as Markdown.
pub fn stages_page() -> String {
    let mut page = String::from(
        "# Stages\n\nWritten by `brazen-veil stages --page`. What some of them do, exactly: [exactly.md](exactly.md). A new one: \
         [adding-a-stage.md](adding-a-stage.md).\n\nA stage that mixes, or is laid on with an opacity, also has an amount (0 to 1) and up to \
         six mattes.\n",
    );
    for (family, name) in FAMILIES {
        // Writing to a string cannot fail.
        let _ = writeln!(page, "\n## {name}");
        let of_family = stages::all().map(|stage| stage.spec()).filter(|spec| spec.family == family);
        of_family.for_each(|spec| add_stage(&mut page, spec));
    }
    page
}

fn add_stage(page: &mut String, spec: &StageSpec) {
    let _ = writeln!(page, "\n### {}\n\n{} {}", spec.name, spec.help, told(spec));
    if spec.controls.is_empty() {
        return;
    }
    let _ = writeln!(page, "\n| control | is | |\n|---|---|---|");
    for control in &spec.controls {
        let _ = writeln!(page, "| {} | {} | {} |", name(control), control.kind.told(), said(control));
    }
}

fn name(control: &AnyControl) -> String {
    if control.group.is_empty() {
        control.name.to_owned()
    } else {
        format!("{}: {}", control.group, control.name)
    }
}

/// What it is for, and when it counts; in a cell of a table.
fn said(control: &AnyControl) -> String {
    let counts =
        control.when.map(|when| format!(" Counts where {} is {}.", when.control, when.is.join(" or ")));
    format!("{}{}", control.help, counts.unwrap_or_default()).replace('|', "\\|")
}

/// What it takes and gives, and what becomes of amount and passes.
fn told(spec: &StageSpec) -> String {
    let main = spec.main.map(|accepts| accepts.word().to_owned());
    let slots = spec.slots.iter().map(|slot| format!("{} in `{}`", slot.accepts.word(), slot.name));
    let taken: Vec<String> = main.into_iter().chain(slots).collect();
    let gives = match spec.gives {
        Gives::Always(kind) => format!("gives a {}", kind.word()),
        Gives::LikeMain => "gives what it takes".into(),
        Gives::ByControls(_) => "gives what its controls say".into(),
    };
    let amount = match spec.amount {
        AmountRule::Mixes | AmountRule::OwnAmount => "mixes",
        AmountRule::OwnUse => "amount scales what it does",
        AmountRule::Opacity => "amount is its opacity",
        AmountRule::None => "has no amount",
    };
    let passes = match spec.passes {
        Passes::Brings => "brings passes",
        Passes::Moves => "moves passes",
        Passes::Joins => "joins passes",
        Passes::Keeps => "keeps passes",
        Passes::Drops => "drops passes",
    };
    let takes = if taken.is_empty() { "nothing".to_owned() } else { taken.join(", ") };
    format!("Takes {takes}; {gives}; {amount}; {passes}.")
}
