// What the server sends and takes, and what the page passes around. Only for checking: nothing of it is shipped.

type Shot = import("../assets/shot/shot.js").Shot;
type Carrier = import("../assets/viewer/carry.js").Carrier;

/** A place in pixels of the picture, x to the right and y down, or a way from one to another. */
type Place = [number, number];
/** A matrix as three rows of three. */
type Matrix = number[][];
type Kind = "picture" | "field" | "map";


interface Frames {
  first: number;
  last: number;
}

interface Picture {
  width: number;
  aspect?: number;
  height: number;
  fps: number;
  frames: Frames;
}

interface Link {
  from: { stage: number };
  take?: string;
}

interface Stage {
  id: number;
  name: string;
  kind: string;
  links: { [slot: string]: Link };
  controls: { [control: string]: any };
  tool?: ToolUse;
  inside?: number;
  group?: string;
  note?: string;
  tab?: string;
  copy_of?: number;
  bake?: object;
}

interface ToolUse {
  inputs: { name: string; kind: string; otherwise?: { input?: number } }[];
  name: string;
  number: number;
  own: boolean;
  faceplate: { stage: number; control: string; label: string; range?: Place }[];
}

interface Media {
  id: number;
  name: string;
  path: string;
}

/** A plate of the show; `record` and `reference` are no part of what a setup keeps. */
interface Plate extends Media {
  record: number;
  reference: boolean;
}

interface Setup {
  picture: Picture;
  stages: Stage[];
  media: Media[];
  tracks?: Track[];
}

interface Sample {
  at: Place;
  likeness?: number;
  corners?: Place[];
  surface?: SurfaceSample;
}

/** Where a surface lies at a frame. */
interface SurfaceSample {
  corners: Place[];
  /** By cell. */
  likeness: number[];
  by_hand?: boolean;
}

/** A lattice laid over a surface where its track begins. */
interface TrackSurface {
  rows: number;
  columns: number;
  corners: Place[];
  stiffness: number;
}

interface Track {
  id: number;
  name: string;
  stage: number;
  begins: number;
  at: Place;
  pattern: Place;
  search: Place;
  least_likeness: number;
  samples?: { [frame: string]: Sample };
  region?: Place[];
  surface?: TrackSurface;
  motion?: string;
  smooth?: number;
  without?: number;
}

interface Slot {
  id: string;
  name: string;
  accepts: "picture" | "field" | "map" | "any" | "pictureorfield";
  from: number | null;
  source: string | null;
  take?: string;
  belongs: { to_list?: string; to_entry?: string };
}

interface Row {
  id: number;
  name: string;
  stage: string;
  gives: Kind;
  knot: "source" | "final" | "join" | "plain";
  lane: number;
  detail: string;
  on: boolean;
  depth: number;
  unfolded: boolean | null;
  pace: { starts: number; lasts: number } | null;
  fold: { shut: boolean; rows: number; group: string | null } | null;
  group: string;
  note: string;
  tab: string | null;
  sampled_in: number | null;
  taps: number;
  slots: Slot[];
  entry?: undefined;
}

/** A line of an open list, between the rows. */
interface Entry {
  id: number;
  lane: number;
  depth: number;
  sampled_in: number | null;
  on: boolean;
  entry: Slot;
}

type Line = Row | Entry;

interface Strand {
  from_row: number;
  from_lane: number;
  to_row: number;
  to_lane: number;
  kind: Kind;
  main: boolean;
  join: [number, string];
}

type Ease = "step" | "straight" | "smooth" | "through" | { curve: number[] };

interface Slopes {
  arrive: number;
  leave: number;
}

interface Key {
  frame: number;
  value: number;
  ease?: Ease;
  slopes?: Slopes;
}

interface Keyed {
  keys: Key[];
  offset?: number;
}

/** A value that comes from something: keys, a wave, a formula, a track, another control. */
interface Fed {
  keys?: Key[];
  offset?: any;
  [word: string]: any;
}

type Feed = number | Fed;

interface ControlKind {
  /** What a pair may have of its own. */
  own?: "amount" | "amount_and_dissolve";
  type: string;
  slider?: Place;
  unit?: string;
  whole?: boolean;
  flat?: boolean;
  options: { id: string; name: string }[];
  of: string;
}

interface Control {
  id: string;
  name: string;
  help: string;
  group: string;
  kind: ControlKind;
  axes: string[];
  grip: string;
  own?: boolean;
  /** Whether each of its numbers is keyed for itself. */
  apart?: boolean;
  word?: string;
  when?: { control: string; is: any[] };
  follows?: string[];
  setting: any;
  changed: boolean;
}

interface Declared {
  /** Kinds of stages that show other frames than their own. */
  movers: Set<string>;
  common: Map<string, Control>;
  stages: Map<string, Map<string, Control>>;
}

interface StageKind {
  id: string;
  name: string;
  help: string;
  family: string;
  places: boolean;
  controls: Control[];
  presets: { name: string; settings: [string, any][] }[];
}

/** What the server is asked to change: `do` names it, the rest depends on that. */
interface Command {
  do: string;
  [word: string]: any;
}

interface Fault {
  stage: number;
  message: string;
  fault?: string;
  mend?: { name: string; command: Command };
}

interface Step {
  label: string;
  pane: string | null;
  seconds_ago: number;
}

interface State {
  revision: number;
  setup: Setup;
  braid: { rows: Row[]; strands: Strand[] };
  controls: { id: number; controls: Control[] }[];
  since?: number;
  undo: Step | null;
  redo: Step | null;
  version: number;
  step: { label: string; row: number | null } | null;
}

interface Folds {
  open: (number | string)[];
  shut: (number | string)[];
  groups: (number | string)[];
}

/** How a shot is looked at in this window. */
interface View {
  frame: number;
  shown: number;
  selected: number[];
  kept: number[];
  folds: Folds;
  /** Rows whose lists are open. */
  lists: number[];
  rows: "usual" | "compact";
  look: string;
  exposure: number;
  screen: string;
  backing: string;
  behind: number | null;
  over: number | null;
  compare: "" | "split" | "beside" | "difference";
  sideA: string;
  sideB: string;
  autoKey: boolean;
  changedOnly: boolean;
  range: { from: number | null; to: number | null } | null;
  ghost: boolean;
  windows: boolean;
  foldView: boolean;
  moves: boolean;
  motion: boolean;
  scopes: boolean;
}

type Seen = { readonly [Name in keyof View]: Readonly<View[Name]> };

/** Where a slot is. */
interface Join {
  stage: number;
  slot: string;
}

type Told = "marks" | "setup" | "view" | "frame" | "trial" | "faults" | "painted" | "measured";

/** A point of an outline: handles are ways from it. */
interface Point {
  at: Place;
  before: Place;
  after: Place;
  soft: number;
}

/** Points that are keyed all together. */
interface KeyedPoints {
  keys: { frame: number; points: Point[] }[];
  way?: string;
  carried?: { track: number; since: number; along?: string };
}

interface Outline extends KeyedPoints {
  name: string;
  width?: number | null;
  joins?: string;
  opacity?: number;
  softness?: number;
  softens?: number;
  side?: string;
  /** The frames that it is seen at; all where it is not said. */
  seen?: { first: number; last: number };
  counts?: boolean;
  locked?: boolean;
  hidden?: boolean;
  /** How its line is broken on the picture. */
  dash?: string;
}

interface Lattice extends KeyedPoints {
  rows: number;
  columns: number;
  /** How its surface goes by its points; through them where it is not said. */
  surface?: "through" | "near";
  /** When each line of points was added; all at first where it is not said. */
  added_rows?: number[];
  added_columns?: number[];
  rest: Place[];
}

interface Pair {
  name: string;
  closed?: boolean;
  rest: KeyedPoints;
  goal: KeyedPoints;
  ties?: Place[];
  own?: boolean;
  own_dissolve?: boolean;
  counts?: boolean;
  locked?: boolean;
  hidden?: boolean;
}

interface Fence {
  name: string;
  closed?: boolean;
  line: KeyedPoints;
  counts?: boolean;
  locked?: boolean;
  hidden?: boolean;
}

interface PairSet {
  pairs: Pair[];
  fences: Fence[];
  amounts: Feed[];
}

interface Brush {
  width: number;
  softness: number;
  joins: string;
  softens: number;
}

interface Drawing {
  closed: boolean;
  points: Point[];
}

/** What of a row's outlines is at hand. */
interface OutlineState {
  row: number | null;
  shape: number;
  points: Set<number>;
  drawing: Drawing | null;
  pivot: Place | null;
  brush: Brush | null;
  /** What a type of control adds of its own. */
  own: { [word: string]: any };
}

/** What of a row's tracks is at hand. */
interface TrackState {
  row: number | null;
  id: number | null;
  placing: "point" | "region" | "surface" | null;
  along: string;
  /** How far about a corner of a surface that is dragged others go along, in cells. */
  reach: number;
  most: number;
  solve: SolveState;
}

/** A camera that is solved from tracks: what is known before, and what was found. */
interface SolveState {
  goes: "moves" | "turns";
  /** In millimetres; none is found. */
  focal: number | null;
  sensor: number;
  ground: string[];
  distance: [string, string, number];
  busy: boolean;
  found: SolvedCamera | null;
}

interface SolvedCamera {
  path: string;
  media: Media;
  /** In pixels, of all frames and of each. */
  error: number;
  focal: number;
  frames: [number, number][];
  points: { name: string; place: number[]; error: number; fits: number; at: Place | null }[];
}

interface About {
  width: number;
  height: number;
  scale: number;
  faults: Fault[];
  data?: number[];
  share: number;
  longest: number;
  mean: number;
}

interface Answer {
  about: About;
  bitmap: ImageBitmap | null;
}

interface Still {
  number: number;
  name: string;
  stage: number;
  frame: number;
}

interface Version {
  number: number;
  name: string;
  at: number;
}

interface Rendered {
  id: number;
  row: string;
  first: number;
  last: number;
}

/** What the server tells all pages. */
interface Heard {
  what: string;
  show: string;
  code: string;
  revision: number;
  stage: number;
  name: string;
  id: number;
  state: string;
  file: string;
  frames: number;
  going: string;
  done: number;
  total: number;
  kept: number;
  beyond: number;
  rate: number;
  message: string;
  failed: { frame: number; message: string }[];
}

/** Something that a person can ask for by keys or by name. */
interface Deed {
  name: string;
  keys: string;
  run: () => unknown;
  where?: "rows" | "anywhere" | "fields";
  ofRows?: boolean;
  pastes?: boolean;
}

type On<E> = (event: E & { target: any; currentTarget: any }) => unknown;

interface Attributes {
  onclick?: On<MouseEvent>;
  ondblclick?: On<MouseEvent>;
  oncontextmenu?: On<MouseEvent>;
  onpointerdown?: On<PointerEvent>;
  onkeydown?: On<KeyboardEvent>;
  oninput?: On<Event>;
  onchange?: On<Event>;
  onfocus?: On<FocusEvent>;
  onblur?: On<FocusEvent>;
  onload?: On<Event>;
  ontoggle?: On<Event>;
  ondrop?: On<DragEvent & { dataTransfer: DataTransfer }>;
  ondragover?: On<DragEvent & { dataTransfer: DataTransfer }>;
  ondragstart?: On<DragEvent & { dataTransfer: DataTransfer }>;
  [name: string]: unknown;
}

type Child = Node | string | number | null | undefined | false;

/** What is drawn on the picture and taken hold of there. */
interface Hand {
  draw(): void;
  readonly dragging: boolean;
  /** A press on the picture; true where it was for this. */
  down(event: PointerEvent): boolean;
  twice(event: MouseEvent): void;
  /** A key on the picture; true where it was for this. */
  key(event: KeyboardEvent): boolean;
}

interface HandNodes {
  shot: Shot;
  overlay: SVGSVGElement;
  well: import("../assets/viewer/well.js").Well;
  carry: Carrier;
  grips: import("../assets/viewer/grips.js").Grips;
  /** Draws all marks anew. */
  remark: () => void;
}

type Lines = import("../assets/bench/lines.js").Lines;

/** How the controls of a type are shown and taken hold of. */
interface ControlType {
  /** Whether several rows do not share it. */
  alone?: boolean;
  lines(lines: Lines, id: number, control: Control): HTMLElement[];
  hand?(nodes: HandNodes): Hand;
}
