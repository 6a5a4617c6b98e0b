// The rows of a shot, by their ids: their stages, controls and numbers, and what is wrong with them.

import { get, orElse, query } from "../base/api.js";
import { Moments } from "./moments.js";
import { Store } from "./store.js";

/**
 * The declarations of the controls, by kind of stage and by id; a row tells only what they are set to.
 * @param {StageKind[]} stages
 * @returns {Promise<Declared>}
 */
export async function declarations(stages) {
  const common = await get("/api/stages/common");
  const by = (/** @type {Control[]} */ list) => new Map(list.map((control) => [control.id, control]));
  const movers = new Set(stages.filter(({ family }) => family === "time").map((stage) => stage.id));
  return { common: by(common), movers, stages: new Map(stages.map((stage) => [stage.id, by(stage.controls)])) };
}

/** @typedef {(id: number, middle: boolean) => void} Bring */

export class Rows extends Store {
  /** @type {Fault[]} */
  #findings = [];
  /** @type {number | null} */
  #lookedAt = null;
  /** @type {{ of: unknown[], list: Fault[], marks: Map<number, Fault> } | null} */
  #told = null;
  /** @type {{ of: State, stages: Map<number, Stage>, rows: Map<number, Row>, told: Map<number, Control[]>, controls: Map<number, Control[]> } | null} */
  #index = null;
  /** @type {{ of: string, values: { [control: string]: number[] } | null }} */
  #numbers = { of: "", values: null };
  #declared;
  /** @type {Bring | null} */
  #bring = null;

  /**
   * @param {string} show
   * @param {string} code
   * @param {Declared} declared
   */
  constructor(show, code, declared) {
    super(`veil:${show}/${code}`);
    this.#declared = declared;
    this.moments = new Moments(this, declared.movers);
    this.show = show;
    this.code = code;
    this.base = `/api/shots/${encodeURIComponent(show)}/${encodeURIComponent(code)}`;
  }

  /**
   * The moment of a row that is seen now, which a row further down may have moved.
   * @param {number | undefined} id
   */
  frameOf(id) {
    return id ? this.moments.at(id) : this.view.frame;
  }

  /** The moment of the row at hand that is seen now: its keys are put there. */
  get here() {
    return this.frameOf(this.selected);
  }

  /**
   * Says how a row is brought into sight.
   * @param {Bring} how
   */
  bringBy(how) {
    this.#bring = how;
  }

  /**
   * Brings a row into sight, in the middle where that is asked for.
   * @param {number} id
   * @param {boolean} [middle]
   */
  bring(id, middle = false) {
    this.#bring?.(id, middle);
  }

  get #indexed() {
    const { state } = this;
    if (this.#index?.of !== state) {
      this.#index = {
        of: state,
        stages: new Map(state.setup.stages.map((stage) => [stage.id, stage])),
        rows: new Map(state.braid.rows.map((row) => [row.id, row])),
        told: new Map(state.controls.map((row) => [row.id, row.controls])),
        controls: new Map(),
      };
    }
    return this.#index;
  }

  /**
   * A row's stage; 0 stands for the setup with its own controls.
   * @param {number | undefined} id
   * @returns {Stage | undefined}
   */
  stage(id) {
    if (id === 0) return { id: 0, name: "own controls", kind: "own", links: {}, controls: {} };
    return id === undefined ? undefined : this.#indexed.stages.get(id);
  }

  /** @param {number | null | undefined} id */
  row(id) {
    return id === null || id === undefined ? undefined : this.#indexed.rows.get(id);
  }

  /**
   * The controls of a row: what each is, and what it is set to.
   * @param {number} id
   * @returns {Control[]}
   */
  controls(id) {
    const { controls, told } = this.#indexed;
    let found = controls.get(id);
    if (!found) {
      const own = this.#declared.stages.get(this.stage(id)?.kind ?? "");
      found = (told.get(id) ?? []).map((control) => ({ ...(control.own ? {} : own?.get(control.id) ?? this.#declared.common.get(control.id)), ...control }));
      controls.set(id, found);
    }
    return found;
  }

  /**
   * Whether a control counts, as the choices of its row are now.
   * @param {number} id
   * @param {Control} control
   * @returns {boolean}
   */
  counts(id, { when }) {
    if (!when) return true;
    const decides = this.controls(id).find((one) => one.id === when.control);
    return decides !== undefined && when.is.includes(decides.setting) && this.counts(id, decides);
  }

  /**
   * The numbers of a row's controls at this frame, which only the server knows where they are fed; none until they are
   * there, when `then` is called.
   * @param {number} id
   * @param {() => void} then
   */
  numbers(id, then) {
    const of = [this.state.revision, this.frameOf(id), id].join("/");
    if (this.#numbers.of === of) return this.#numbers.values;
    this.#numbers = { of, values: null };
    this.values(id).then((values) => {
      if (this.#numbers.of !== of) return;
      this.#numbers = { of, values };
      if (values) then();
    });
    return null;
  }

  /**
   * @param {number} id
   * @returns {Promise<{ [control: string]: number[] } | null>}
   */
  values(id) {
    return orElse(get(`${this.base}/values?${query({ stage: id, frame: this.frameOf(id) })}`), null);
  }

  #gathered() {
    const of = [this.faults, this.#findings, this.state];
    if (!this.#told?.of.every((source, at) => source === of[at])) {
      const known = new Set(this.faults.map((fault) => `${fault.stage} ${fault.message}`));
      const list = [...this.faults, ...this.#findings.filter((one) => !known.has(`${one.stage} ${one.message}`) && this.stage(one.stage))];
      // What a row is marked for. That it is off shows by itself.
      const marks = new Map(list.filter((one) => one.fault !== "off").toReversed().map((one) => [one.stage, one]));
      this.#told = { of, list, marks };
    }
    return this.#told;
  }

  /** Everything that is told of rows, faults of the picture first. */
  told() {
    return this.#gathered().list;
  }

  /** @param {number} id */
  marked(id) {
    return this.#gathered().marks.get(id);
  }

  /** Faults of the whole setup, once nobody waits for a picture. */
  async check() {
    const { revision } = this.state;
    if (this.#lookedAt === revision) return;
    this.#lookedAt = revision;
    const found = await orElse(get(`${this.base}/findings`), null);
    if (!found || this.state.revision !== revision) return;
    this.#findings = found;
    this.tell("faults");
  }
}
