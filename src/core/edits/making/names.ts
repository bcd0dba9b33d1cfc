/** Whether a thing can be called so, asked in one place by every form that names one. */
import { isFarName, isName, isReserved } from '#core/notation';
import type { Kind } from '#core/notation';
import type { Site } from '#core/site';
import type { MakingFault } from './gesture';

/** Why nothing new of a kind can have a name; undefined where it can. */
export function nameFault(site: Site, kind: Kind, name: string): MakingFault | undefined {
  const isGood = kind === 'far' ? isFarName(name) : isName(name) && !isReserved(name);
  if (!isGood) return { what: 'name' };
  const subject = `${kind}/${name}`;
  return site.statements.some((s) => s.subject === subject) ? { what: 'taken', subject } : undefined;
}
