import { expect } from 'chai';
import { parcelName, slugOf, unpack } from './parcel';

const DAY = new Date(2026, 10, 29, 23, 59);

describe('files of a site', () => {
  it('are called by site and day, and come back as what they were', () => {
    const name = (file: string, part: 'draft' | 'running' | 'startup' = 'draft') =>
      parcelName('Tidewater Kiln', DAY, file, part);
    expect(name('box.gate')).to.equal('tidewater-kiln-2026-11-29.box.gate');
    expect(name('box.gate', 'running')).to.equal('tidewater-kiln-2026-11-29.box.running.gate');
    const back = unpack([
      { name: name('box.gate'), text: 'a' },
      { name: name('wiring.gate'), text: 'b' },
      { name: name('box.gate', 'running'), text: 'c' },
      { name: name('box.gate', 'startup'), text: 'd' },
    ]);
    expect(back).to.deep.equal({
      name: 'tidewater-kiln',
      draft: [
        { name: 'box.gate', text: 'a' },
        { name: 'wiring.gate', text: 'b' },
      ],
      running: [{ name: 'box.gate', text: 'c' }],
      startup: [{ name: 'box.gate', text: 'd' }],
    });
    // A day later the stamp is the new day's, and no second one.
    expect(parcelName('Tidewater Kiln', DAY, name('box.gate'), 'draft')).to.equal(name('box.gate'));
  });

  it('of other names keep them, and a site of strange letters still has one', () => {
    expect(unpack([{ name: 'office.gate', text: '' }])).to.deep.include({ name: 'office', running: [] });
    expect(unpack([{ name: 'x.running.gate', text: 'r' }]).running).to.deep.equal([
      { name: 'x.gate', text: 'r' },
    ]);
    expect([slugOf('Café Ü / Nord'), slugOf('事務所'), slugOf('../../etc')]).to.deep.equal([
      'cafe-u-nord',
      'site',
      'etc',
    ]);
  });
});
