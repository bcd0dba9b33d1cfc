/** What the page and its worker say to one another. Plain data both ways. */
import type { Day, Patch } from '#core/base';
import type { Finding } from '#core/findings';
import type { DrillRun, DrillScript, WhatIf } from '#core/proof/drills';
import type { ReachEnd } from '#core/reach';
import type {
  DeskLadder,
  LearnedSeen,
  LeaseSeen,
  PromiseResult,
  NameSeen,
  RouteSeen,
  StageResult,
  UplinkLadder,
} from '#core/proof';
import type { SentText, TextFile } from './texts';

export type { TextFile };

/** What is to be derived. */
export interface DeriveRequest {
  /** Numbers the requests; a newer one makes an older one stale. */
  readonly generation: number;
  readonly draft: readonly TextFile[];
  /** Absent where it is the same as the draft. */
  readonly running?: readonly TextFile[];
  readonly drill?: { readonly cut: readonly string[]; readonly dead: readonly string[] };
  readonly factoryPassword: boolean;
  /** The day that is asked about. */
  readonly today?: Day;
  /** The provider's sheet that is kept with the site. */
  readonly sheet?: string;
  /** Rows of it that were corrected. */
  readonly sheetRows?: Readonly<Record<string, string>>;
  /** How the seat's PC stands, where that is not as the running box would have it. */
  readonly desk?: DeskState;
  /** What runs is a live box: a way in counts only if it is the one by which it is called. */
  readonly isLive?: boolean;
  /** Whether the reach is told for every host, not only for zones. */
  readonly hosts?: boolean;
}

/** A promise's result without its statement, which would not survive the way. */
export interface PromiseView extends Omit<PromiseResult, 'statement'> {
  readonly file: string;
  readonly line: number;
  readonly text: string;
}

/** One flow of the bench's log. */
export interface LogRowView {
  readonly time: number;
  readonly zones: string;
  readonly source: string;
  readonly destination: string;
  readonly service: string;
  readonly came: string;
  readonly went: string;
  readonly shown: string;
  readonly end: string;
  readonly good: boolean;
  readonly asked: boolean;
  readonly subject?: string;
  readonly line?: number;
}

/** An uplink's ladder; `onSheet` where the line behind it was written from the provider's sheet, and from nothing else. */
export type UplinkView = UplinkLadder & { readonly onSheet?: boolean };

export interface ProofView {
  /** What came to the box while it was proved. */
  readonly log: readonly LogRowView[];
  readonly uplinks: readonly UplinkView[];
  readonly desks: readonly DeskLadder[];
  readonly leases: readonly LeaseSeen[];
  /** What the uplinks got from their providers. */
  readonly learned: readonly LearnedSeen[];
  readonly promises: readonly PromiseView[];
  readonly routes: readonly RouteSeen[];
  readonly names: readonly NameSeen[];
  /** Frames that no interface took, by where they arrived. */
  readonly unclaimed: readonly { readonly where: string; readonly frames: number }[];
  /** The bench was stopped, since something on it went on and on. */
  readonly spent: boolean;
}

/** Where a statement stands. */
export interface PlaceView {
  readonly subject: string;
  readonly file: string;
  readonly line: number;
}

/** A finding with its other statements as places. */
export interface FindingView extends Omit<Finding, 'others'> {
  readonly others: readonly PlaceView[];
}

/** A mend that leaves its finding or causes an error: the finding's identity, and the mend's place in it. */
export interface FailingMend {
  readonly finding: string;
  readonly index: number;
}

/** One cell of the reach table; ends by their place in the lists. Cells with nothing in them are left out. */
export interface ReachCellView {
  readonly from: number;
  readonly to: number;
  readonly verdict: 'all' | 'some' | 'none';
  readonly text: string;
  /** What it says of the running box, where that differs. */
  readonly was?: string;
  /** A service to ask the bench with. */
  readonly ask: string;
  /** The services in the notation. */
  readonly services: string;
  readonly lines: readonly PlaceView[];
  readonly leavesAs?: string;
}

export interface ReachEndView extends ReachEnd {
  readonly text: string;
}

/** A statement behind a ribbon. */
export interface TakingView {
  readonly subject: string;
  readonly file: string;
  readonly line: number;
  readonly text: string;
  readonly verdict: 'allow' | 'drop' | 'reject';
  /** What it is the first to take; empty where earlier ones took all. */
  readonly takes: string;
  /** Lines of the earlier statements that took some of it. */
  readonly after: readonly number[];
}

/** What passes from one zone to another, and by which statements. */
export interface RibbonView {
  readonly from: string;
  readonly to: string;
  /** Empty where nothing passes. */
  readonly text: string;
  readonly leavesAs?: string;
  readonly statements: readonly TakingView[];
}

export interface ReachView {
  readonly sources: readonly ReachEndView[];
  readonly destinations: readonly ReachEndView[];
  readonly cells: readonly ReachCellView[];
  readonly ribbons: readonly RibbonView[];
  /** How the draft differs from what runs, in sentences. */
  readonly changes: readonly string[];
}

/** Findings, which are told first, and what was proved. */
export interface Derived extends Proved {
  readonly findings: readonly FindingView[];
}

export interface Proved {
  readonly generation: number;
  readonly draft: ProofView;
  readonly reach: ReachView;
  /** Absent where running is the same as the draft. */
  readonly running?: ProofView;
  /** Absent where nobody sits anywhere. */
  readonly seat?: SeatView;
  /** Milliseconds the worker took for findings and proofs. */
  readonly took: number;
}

/** How the seat's PC stands, as text. */
export interface DeskState {
  readonly plug: string;
  /** With its length; absent where it has none. */
  readonly address?: string;
  readonly gateway?: string;
  readonly address6?: string;
  readonly gateway6?: string;
}

/** Something that can be done at the desk so that the running box lets its PC in. */
export interface DeskMoveView {
  readonly text: string;
  readonly to: DeskState;
  /** What the wiring says of the station afterwards, clause by clause; absent where it says the same. */
  readonly writes?: readonly { readonly name: string; readonly text: string }[];
}

/** Where the administrator sits, and by which address and service the box is reached from there. */
export interface SeatView {
  readonly name: string;
  readonly supposed: boolean;
  /** Absent: not at all. */
  readonly running?: string;
  readonly draft?: string;
  readonly at: DeskState;
  /** Where the running box is not reached. */
  readonly moves: readonly DeskMoveView[];
}

export interface PlanStepView {
  readonly what: 'apply' | 'hold' | 'release' | 'desk';
  readonly text: string;
  readonly fate: 'kept' | 'moved' | 'cut';
  /** What there is to do at the desk. */
  readonly todo?: string;
  /** For a step at the desk. */
  readonly move?: DeskMoveView;
  readonly contact?: string;
  /** The box's text after the step. */
  readonly box: string;
  /** Whether it ends at the draft. */
  readonly last: boolean;
}

export interface PlanView {
  readonly seat?: { readonly name: string; readonly supposed: boolean; readonly before?: string };
  readonly steps: readonly PlanStepView[];
  readonly lockout: boolean;
  readonly slow: readonly SlowView[];
  /** Where there are two boxes. */
  readonly standby?: {
    /** Who comes first. */
    readonly text: string;
    readonly box: string;
    /** What changes in its own text. */
    readonly changes: readonly string[];
    /** What has to be minded while only one of them has its new text. */
    readonly apart?: string;
  };
}

/** Told of a plan while a better one is looked for, and of how many configurations were looked at. */
export type PlanTold = (view: PlanView | undefined, looked: number) => void;

/** A network in use that may get its new address without anybody there noticing. */
export interface SlowView {
  readonly interface: string;
  readonly steps: readonly { readonly text: string; readonly box: string; readonly last: boolean }[];
  /** What is to be done by hand meanwhile. */
  readonly rest: readonly string[];
}

export interface AskRequest {
  readonly files: readonly TextFile[];
  readonly from: string;
  readonly to: string;
  readonly service?: string;
}

/** What came of a drill. */
export type DrillAnswer =
  | { readonly ok: true; readonly run: DrillRun }
  | { readonly ok: false; readonly why: string };

/** The what-if board, and the interface that each desk is behind. */
export type WhatIfView = WhatIf;

/** Told of how many faults were tried of how many. */
export type WhatIfTold = (done: number, of: number) => void;

export interface StepView {
  readonly time: number;
  readonly node: string;
  readonly stage: string;
  readonly text: string;
  readonly file?: string;
  readonly line?: number;
  readonly subject?: string;
  readonly source: string;
  readonly destination: string;
}

export type Answer =
  | {
      readonly ok: true;
      readonly sentence: string;
      readonly verdict: string;
      readonly steps: readonly StepView[];
      /** The frames on the box's ports, as a pcapng file. */
      readonly capture: Uint8Array;
    }
  | { readonly ok: false; readonly why: string };

export type { StageResult };

/** A request as it is sent: its texts by their edits. */
export interface SentRequest extends Omit<DeriveRequest, 'draft' | 'running'> {
  readonly draft: readonly SentText[];
  readonly running?: readonly SentText[];
  /** Nothing was told in this life yet: the answer is told whole. */
  readonly whole?: boolean;
}

/** Which of the two texts. */
export type Side = 'draft' | 'running';

/** What the worker offers. Texts come by their edits; findings and proofs go as what changed since it told them last. */
export interface WorkerApi {
  /** The findings of the draft: quick, and asked for first. */
  find(request: SentRequest): Patch;
  derive(request: SentRequest): Patch;
  /** Of the mends of the findings of a request, those that do not do what they offer; ends early once a newer one comes. */
  failingMends(generation: number): Promise<readonly FailingMend[]>;
  ask(request: Omit<AskRequest, 'files'> & { readonly files: readonly SentText[] }): Answer;
  /** The findings of a text that is only being thought of. */
  check(files: readonly SentText[]): FindingView[];
  /** What a text that is only being thought of would change of the reach, in sentences. */
  compare(before: readonly SentText[], after: readonly SentText[]): string[];
  /** The crossing from what runs to the draft. */
  plan(
    running: readonly SentText[],
    draft: readonly SentText[],
    told: PlanTold,
    desk?: DeskState,
    isLive?: boolean,
  ): Promise<PlanView>;
  /** A continuous ping while lines fail, on the draft or on what runs. */
  drill(which: Side, files: readonly SentText[], script: DrillScript): DrillAnswer;
  /** What every single fault would do, or every two; none where another board was asked for meanwhile. */
  whatIf(
    which: Side,
    files: readonly SentText[],
    isPairs: boolean,
    told: WhatIfTold,
  ): Promise<WhatIfView | undefined>;
  /** Ends looking for a crossing; what was found so far is the answer. */
  stopPlanning(): void;
}
