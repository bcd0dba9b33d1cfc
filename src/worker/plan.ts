/** The seat and the crossing as the views show them: plain data, sentences already made. */
import { SeatWorld, boxText, planCrossing } from '#core/change';
import type { Site } from '#core/site';
import { contactText, stepLine, todoText } from '#words';
import type { PlanView, SeatView } from './protocol';

/** Whether the administrator's PC reaches the box, in what it runs and in the draft. */
export function seatView(running: Site, draft: Site): SeatView | undefined {
  const world = SeatWorld.of(running);
  if (!world) return undefined;
  const way = (site: Site) => {
    const [first] = world.contacts(boxText(site), world.start);
    return first && contactText(first);
  };
  const now = way(running);
  return {
    name: world.name,
    supposed: world.supposed,
    running: now,
    draft: running === draft ? now : way(draft),
  };
}

/** The crossing from one site to another. */
export function planView(running: Site, draft: Site, enough: () => boolean): PlanView {
  const plan = planCrossing(running, draft, { enough });
  return {
    lockout: plan.lockout,
    seat: plan.seat && {
      name: plan.seat.name,
      supposed: plan.seat.supposed,
      before: plan.seat.before && contactText(plan.seat.before),
    },
    steps: plan.steps.map((step, i) => ({
      what: step.what,
      text: stepLine(step, plan),
      fate: step.fate,
      todo: todoText(step, plan),
      contact: step.contact && contactText(step.contact),
      box: step.box,
      last: i === plan.steps.length - 1,
    })),
  };
}
