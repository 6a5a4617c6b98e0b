//! The tables, as the migrations make them.

diesel::table! {
    shows (id) {
        id -> Integer, name -> Text, folder -> Text, working -> Text, binned -> Bool,
        fps -> Double, width -> Integer, height -> Integer,
    }
}
diesel::table! {
    shots (id) {
        id -> Integer, show_id -> Integer, code -> Text, title -> Text,
        setup -> Text, revision -> BigInt, changed_at -> BigInt, binned -> Bool,
    }
}
diesel::table! {
    history (id) {
        id -> Integer, shot_id -> Integer, revision -> BigInt, edit -> Text, undone -> Bool, at -> BigInt,
        pane -> Text,
    }
}
diesel::table! {
    touched (id) { id -> Integer, shot_id -> Integer, revision -> BigInt, part -> Text, label -> Text, }
}
diesel::table! {
    versions (id) {
        id -> Integer, shot_id -> Integer, number -> Integer, name -> Text, setup -> Text, at -> BigInt,
        binned -> Bool,
    }
}
diesel::table! {
    media (id) {
        id -> Integer, show_id -> Integer, path -> Text, inspected -> Text, colour -> Nullable<Text>,
        reference -> Bool, binned -> Bool,
    }
}
diesel::table! {
    tools (id) {
        id -> Integer, name -> Text, number -> Integer, tool -> Text, picture -> Binary, at -> BigInt,
        binned -> Bool, shipped -> Bool,
    }
}
diesel::table! {
    bin (id) { id -> Integer, kind -> Text, item -> Integer, name -> Text, place -> Text, at -> BigInt, }
}
diesel::table! {
    renders (id) {
        id -> Integer, shot_id -> Integer, setup -> Text, stage -> Integer, first -> Integer, last -> Integer,
        scale -> Integer, output -> Text, state -> Text, done -> Integer, failed -> Text, at -> BigInt,
        binned -> Bool, attempts -> Integer, kept -> Integer, beyond -> BigInt,
    }
}
diesel::table! {
    clips (render_id) { render_id -> Integer, numbers -> Text, }
}
diesel::table! {
    aliases (id) { id -> Integer, show_id -> Integer, layer -> Text, role -> Text, }
}
diesel::table! {
    stills (id) {
        id -> Integer, shot_id -> Integer, number -> Integer, name -> Text, revision -> BigInt,
        stage -> Integer, frame -> Double, setup -> Text, at -> BigInt,
    }
}
diesel::joinable!(shots -> shows (show_id));
diesel::joinable!(renders -> shots (shot_id));
diesel::joinable!(media -> shows (show_id));
diesel::joinable!(versions -> shots (shot_id));
diesel::allow_tables_to_appear_in_same_query!(shows, shots, renders, media, versions);
