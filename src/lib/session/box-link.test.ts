import { expect } from 'chai';
import type { BoxEvent } from '#core/change';
import {
  boxOnly,
  deskOf,
  driftOf,
  historyChanges,
  isOutOfReach,
  linkOf,
  newLink,
  onlyBoxFile,
} from './box-link';
import { siteOf, tell, toStored, trialLeft, withWorld } from './box-link';
import type { BoxLink, SeatSeen } from './box-link';
import type { StoredSite } from './db';

const BOX =
  'box tide: admin steward\nzone office:\ninterface desk: on p2, zone office, address 10.61.20.1/24, answers ssh\n';
const WIRING = 'station pc: at p2, address 10.61.20.50/24, seat\n';
const box = (text = BOX) => [{ name: 'box.gate', text }];
const site = (text = BOX) => [...box(text), { name: 'wiring.gate', text: WIRING }];
const MOVED = BOX.replaceAll('10.61.20', '10.61.21');
const seat = (hasWay: boolean): SeatSeen => ({
  of: 'station pc: seat',
  at: { plug: 'p2', address: '10.61.20.50/24' },
  hasWay,
});
const give = (link: BoxLink, event: BoxEvent, now = 0, reached = true, seen = seat(true)) =>
  tell(link, { id: `order ${JSON.stringify(event)} ${now}`, event }, now, { reached, seat: seen });
const trying = (text: string): BoxEvent => ({ do: 'try', id: 't', files: box(text), seconds: 60, note: '' });
const kept = (link: BoxLink, now: number, updated: number): StoredSite => ({
  id: 's',
  name: 'tide',
  files: [...site()],
  undo: [],
  redo: [],
  sheet: '',
  sheetRows: {},
  firstLight: false,
  ...toStored(link, now),
  updated,
});

describe('the link to the box', () => {
  it('remembers the seat as a trial begins, and is out of reach only while that trial has taken its way', () => {
    const { link, refused, isChanged } = give(newLink(box()), trying(MOVED));
    expect([refused, isChanged, link.hadContact]).to.deep.equal([undefined, true, true]);
    expect(deskOf(link, 'station pc: seat')).to.include({ plug: 'p2', address: '10.61.20.50/24' });
    expect(deskOf(link, 'station other: seat'), 'the PC of another statement').to.equal(undefined);
    expect(isOutOfReach(link, seat(false))).to.equal(true);
    expect(isOutOfReach(link, seat(true))).to.equal(false);
    expect(isOutOfReach(link, undefined), 'nobody sits anywhere').to.equal(false);
    expect(isOutOfReach(give(link, { do: 'go-back' }).link, seat(false)), 'no trial').to.equal(false);
    const without = give(newLink(box()), trying(MOVED), 0, true, seat(false)).link;
    expect(isOutOfReach(without, seat(false)), 'it had no way before either').to.equal(false);
  });

  it('gets no answer over a way that is cut, save for what happens at the box itself', () => {
    const { link } = give(newLink(box()), trying(MOVED));
    const lost = give(link, { do: 'stay', id: 't' }, 1000, false);
    expect([lost.refused, lost.isChanged, !!lost.link.device.state.trial]).to.deep.equal([
      'no-answer',
      false,
      true,
    ]);
    const ran = give(link, { do: 'tick' }, 61_000, false);
    expect([ran.refused, ran.link.device.state.trial]).to.deep.equal([undefined, undefined]);
    expect(ran.link.device.state.running).to.deep.equal(box());
    expect(ran.link.agreed, 'what runs now is known').to.deep.equal(box());
  });

  it('keeps a trial as long as it has left, whatever the clocks of two days say', () => {
    const { link } = give(newLink(box()), trying(MOVED), 1_000);
    const site = kept(link, 11_000, 500_000);
    expect(site.trialLeft).to.equal(50_000);
    const left = (now: number, wall: number, isOpen = false) =>
      trialLeft(linkOf(site, now, wall, isOpen).device.state, now);
    expect(left(0, 500_000), 'at once').to.equal(50);
    expect(left(7_000_000, 520_000), 'twenty seconds later, another steady clock').to.equal(30);
    expect(left(0, 400_000), 'a clock set back makes it no longer').to.equal(50);
    expect(left(0, 900_000), 'long over').to.equal(0);
    expect(left(11_000, 500_000, true), 'the open site goes on as it is').to.equal(50);
    expect(trialLeft(newLink(box()).device.state, 0)).to.equal(0);
  });

  it('tells what somebody else changed, and nothing while a trial runs or where it was told from here', () => {
    const drift = (link: BoxLink) =>
      driftOf(link, site(), siteOf(withWorld(link.device.state.running, site())), siteOf(site()));
    expect(drift(newLink(box()))).to.equal(undefined);
    const theirs = BOX.replace('answers ssh', 'answers ssh ping');
    const { link, refused } = give(newLink(box()), { do: 'replace', files: box(theirs), by: 'console' });
    expect([refused, link.agreed]).to.deep.equal([undefined, box()]);
    const told = drift(link)!;
    expect(told.changes.map((c) => c.subject)).to.deep.equal(['interface/desk']);
    expect(told.merge.changes, 'taken into the draft, which left it as it was').to.have.length(1);
    expect(drift({ ...link, agreed: link.device.state.running }), 'let stand').to.equal(undefined);
    expect(drift(give(newLink(box()), trying(MOVED)).link), 'a trial of its own').to.equal(undefined);
  });

  it('keeps what was changed, entry by entry, and compares any two', () => {
    let link = newLink(box());
    for (const [i, text] of [MOVED, `${MOVED}zone lab:\n`].entries()) {
      link = give(link, { do: 'try', id: `${i}`, files: box(text), seconds: 60, note: '' }, i).link;
      link = give(link, { do: 'stay', id: `${i}` }, i).link;
    }
    const { state } = link.device;
    expect(historyChanges(state, 0).map((c) => c.subject)).to.deep.equal(['zone/lab']);
    expect(historyChanges(state, 1).map((c) => c.subject)).to.deep.equal(['interface/desk']);
    expect(historyChanges(state, 1, 0).map((c) => [c.kind, c.subject])).to.deep.equal([
      ['removed', 'zone/lab'],
    ]);
    expect(historyChanges(state, 9)).to.deep.equal([]);
  });

  it('knows which files the box is told, and when they are one', () => {
    expect(boxOnly(site())).to.deep.equal(box());
    expect(boxOnly([{ name: 'new.gate', text: '' }])).to.have.length(1);
    expect(boxOnly([{ name: 'wiring.gate', text: '' }])).to.deep.equal([]);
    expect(onlyBoxFile(site())).to.equal('box.gate');
    expect(onlyBoxFile([{ name: 'all.gate', text: BOX + WIRING }]), 'wiring among it').to.equal(undefined);
    expect(onlyBoxFile([...box(), { name: 'more.gate', text: 'zone lab:\n' }])).to.equal(undefined);
    expect(withWorld(box(MOVED), site()).map((f) => f.text)).to.deep.equal([MOVED, WIRING]);
  });
});
