//! The tables, as the migrations make them.

diesel::table! {
    shows (id) { id -> Integer, name -> Text, folder -> Text, working -> Text, }
}
diesel::table! {
    shots (id) {
        id -> Integer, show_id -> Integer, code -> Text, title -> Text,
        setup -> Text, revision -> BigInt, changed_at -> BigInt,
    }
}
diesel::table! {
    history (id) {
        id -> Integer, shot_id -> Integer, revision -> BigInt, edit -> Text, undone -> Bool, at -> BigInt,
        pane -> Text,
    }
}
diesel::table! {
    versions (id) { id -> Integer, shot_id -> Integer, number -> Integer, name -> Text, setup -> Text, at -> BigInt, }
}
diesel::table! {
    media (id) { id -> Integer, show_id -> Integer, path -> Text, inspected -> Text, colour -> Nullable<Text>, reference -> Bool, }
}
diesel::table! {
    tools (id) { id -> Integer, name -> Text, number -> Integer, tool -> Text, picture -> Binary, at -> BigInt, }
}
diesel::table! {
    renders (id) {
        id -> Integer, shot_id -> Integer, setup -> Text, stage -> Integer, first -> Integer, last -> Integer,
        scale -> Integer, output -> Text, state -> Text, done -> Integer, failed -> Text, at -> BigInt,
    }
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
diesel::allow_tables_to_appear_in_same_query!(shows, shots, renders);
