/** The values that a sentence about a broken promise needs. */
import { formatFlowService, formatIp } from '#core/addr';
import type { PromiseOnSets } from './promise';

/** As text, by name; `why` chooses the sentence. */
export function becauseOf(result: PromiseOnSets): Record<string, string> {
  const { why, witness } = result;
  if (!why) return {};
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
