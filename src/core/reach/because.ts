/** The values that a sentence about a broken promise needs. */
import { formatFlowService, formatIp } from '#core/addr';
import type { End } from './outcome';
import type { PromiseOnSets, Why } from './promise';

/** Why a promise does not hold: where the box ends a flow, or what else. */
export type BecauseCode = Exclude<Why['why'], 'box'> | End;

/** The values of the sentence, as text; what does not belong to it is empty. */
export interface Because {
  readonly why: BecauseCode;
  readonly source: string;
  readonly destination: string;
  readonly service: string;
  readonly through: string;
  readonly table: string;
  readonly zones: string;
  readonly shown: string;
  readonly target: string;
  readonly door: string;
  readonly statement: string;
  readonly line: string;
}

/** Why a promise does not hold. */
export function becauseOf({ why, witness }: Extract<PromiseOnSets, { holds: false }>): Because {
  const statement = 'statement' in why ? why.statement : undefined;
  const zones =
    statement?.kind === 'passage'
      ? `${statement.from.name} > ${statement.to.name}`
      : (witness?.arrival.zone?.name ?? '');
  return {
    why: why.why === 'box' ? why.end : why.why,
    source: witness ? formatIp(witness.source) : '',
    destination: witness ? formatIp(witness.destination) : '',
    service: witness ? formatFlowService(witness.service) : '',
    through: witness?.arrival.name ?? '',
    table: witness?.arrival.table ?? '',
    zones,
    shown: 'shown' in why ? formatIp(why.shown) : '',
    target: 'target' in why ? why.target : '',
    door: 'door' in why ? (why.door ?? '') : '',
    statement: statement?.subject ?? '',
    line: statement ? String(statement.line) : '',
  };
}
