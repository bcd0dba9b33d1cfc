/** The rulings on colour, computed: contrast of text and marks in both themes, and tints apart in every kind of colour sight. */
import { expect } from 'chai';
import { readFileSync } from 'node:fs';

const css = readFileSync('src/app.css', 'utf8');
type Rgb = readonly [number, number, number];
const rgb = (hex: string): Rgb =>
  [1, 3, 5].map((i) => parseInt(hex.slice(i, i + 2), 16) / 255) as unknown as Rgb;
const linear = (c: Rgb): Rgb =>
  c.map((v) => (v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4)) as unknown as Rgb;

/** Relative luminance and contrast, WCAG 2.1. */
const luminance = (hex: string) => {
  const [r, g, b] = linear(rgb(hex));
  return 0.2126 * r + 0.7152 * g + 0.0722 * b;
};
const contrast = (a: string, b: string) => {
  const [x, y] = [luminance(a), luminance(b)].sort((m, n) => n - m) as [number, number];
  return (x + 0.05) / (y + 0.05);
};

/** OKLab from linear RGB (Ottosson 2020). */
function oklab([r, g, b]: Rgb): Rgb {
  const l = Math.cbrt(0.4122214708 * r + 0.5363325363 * g + 0.0514459929 * b);
  const m = Math.cbrt(0.2119034982 * r + 0.6806995451 * g + 0.1073969566 * b);
  const s = Math.cbrt(0.0883024619 * r + 0.2817188376 * g + 0.6299787005 * b);
  return [
    0.2104542553 * l + 0.793617785 * m - 0.0040720468 * s,
    1.9779984951 * l - 2.428592205 * m + 0.4505937099 * s,
    0.0259040371 * l + 0.7827717662 * m - 0.808675766 * s,
  ];
}
/** Dichromacy at full strength (Machado, Oliveira and Fernandes 2009), on linear RGB. */
const SIGHTS: Readonly<Record<string, readonly number[]>> = {
  full: [1, 0, 0, 0, 1, 0, 0, 0, 1],
  protan: [0.152286, 1.052583, -0.204868, 0.114503, 0.786281, 0.099216, -0.003882, -0.048116, 1.051998],
  deutan: [0.367322, 0.860646, -0.227968, 0.280085, 0.672501, 0.047413, -0.01182, 0.04294, 0.968881],
  tritan: [1.255528, -0.076749, -0.178779, -0.078411, 0.930809, 0.147602, 0.004733, 0.691367, 0.3039],
};
function seen(hex: string, sight: string): Rgb {
  const [r, g, b] = linear(rgb(hex));
  const m = SIGHTS[sight]!;
  const clip = (v: number) => Math.min(1, Math.max(0, v));
  return oklab([0, 3, 6].map((i) => clip(m[i]! * r + m[i + 1]! * g + m[i + 2]! * b)) as unknown as Rgb);
}
const distance = (a: string, b: string, sight: string) => {
  const [x, y] = [seen(a, sight), seen(b, sight)];
  return Math.hypot(x[0] - y[0], x[1] - y[1], x[2] - y[2]);
};

const theme = (name: string) => {
  const block = new RegExp(`name: '${name}';[\\s\\S]*?\\n}`).exec(css)![0];
  const own = new RegExp(`\\[data-theme='${name}'\\] \\{([\\s\\S]*?)\\n}`).exec(css)![1]!;
  return (key: string) => new RegExp(`--${key}: (#[0-9a-f]{6})`).exec(own + block)![1]!;
};

for (const name of ['daylight', 'lantern'])
  describe(`the theme ${name}`, () => {
    const c = theme(name);
    const tints = [1, 2, 3, 4, 5, 6].map((i) => c(`tint-${i}`));

    it('has text at 4.5:1 and marks at 3:1 on every ground they stand on', () => {
      const ink = c('color-base-content');
      for (const ground of [
        'color-base-100',
        'color-base-200',
        'error-ground',
        'warning-ground',
        'advice-ground',
      ])
        expect(contrast(ink, c(ground)), `ink on ${ground}`).to.be.at.least(4.5);
      for (const text of ['quiet', 'color-error', 'color-warning', 'color-success', 'color-primary'])
        expect(contrast(c(text), c('color-base-100')), text).to.be.at.least(4.5);
      expect(contrast(c('quiet'), c('color-base-200'))).to.be.at.least(4.5);
      expect(contrast(c('color-accent-content'), c('color-accent'))).to.be.at.least(4.5);
      for (const pair of ['primary', 'warning', 'info', 'neutral'])
        expect(contrast(c(`color-${pair}-content`), c(`color-${pair}`)), pair).to.be.at.least(4.5);
      for (const tint of tints) expect(contrast(tint, c('color-base-100')), tint).to.be.at.least(3);
      expect(contrast(c('focus'), c('color-base-100'))).to.be.at.least(3);
    });

    it('has zone tints whose neighbours are apart in every kind of colour sight', () => {
      for (const sight of Object.keys(SIGHTS))
        for (let i = 0; i < 6; i++)
          expect(
            distance(tints[i]!, tints[(i + 1) % 6]!, sight),
            `${tints[i]} ${tints[(i + 1) % 6]} ${sight}`,
          ).to.be.at.least(0.07);
    });
  });
