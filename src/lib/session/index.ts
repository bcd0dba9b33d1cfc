/** The client's state for the views. */
import { getContext, setContext } from 'svelte';
import type { Session } from './session.svelte';

export { HOLD, Session } from './session.svelte';
export { parsed } from './readable';
export { VIEWS } from './nav.svelte';
export type { Incoming, View, Want } from './nav.svelte';
export type { StoreTrouble } from './db';
export type { Live, LiveDrift } from './live.svelte';
export type {
  DeskMoveView,
  DrillAnswer,
  PlanStepView,
  PlanView,
  Answer,
  FindingView,
  ProofView,
  ReachCellView,
  ReachEndView,
  RibbonView,
  TakingView,
} from '../../worker/protocol';

const KEY = Symbol('session');
export const provideSession = (session: Session): Session => setContext(KEY, session);
export const useSession = (): Session => getContext<Session>(KEY);
export { remembered } from './keeping';
