/** The real page in headless Chromium, served by the real command. */
import { mkdtempSync, readFileSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
import { Builder, By, Key, logging } from 'selenium-webdriver';
import type { WebDriver, WebElement } from 'selenium-webdriver';
import { Options, ServiceBuilder } from 'selenium-webdriver/chrome.js';
import { serve } from './serve';

export { By, Key };

/** How long a test waits for what must come, in ms: to catch a hang. A busy machine is not a fault. */
export const PATIENCE = 600_000;

/** All elements with a test id, as an expression in the page. */
export const marked = (id: string): string => `document.querySelectorAll('[data-testid="${id}"]')`;

/** Whether the crossing's way is found, as an expression in the page. */
export const CALM = `!!document.querySelector('[data-testid="crossing"][aria-busy="false"]')`;

/** What an element shows, as a reader has it: cells of a row stand apart, lines have no edges. */
const TEXT = `element.innerText.replace(/\\t/g, ' ').replace(/ *\\n\\s*/g, '\\n').trim()`;

export interface Page {
  readonly driver: WebDriver;
  readonly origin: string;
  readonly downloads: string;
  /** The element with this test id, once it is there and shown. */
  get(id: string): Promise<WebElement>;
  /** How many elements with this test id are there now. */
  count(id: string): Promise<number>;
  click(id: string): Promise<void>;
  /** Replaces what a field holds. */
  fill(id: string, text: string): Promise<void>;
  text(id: string): Promise<string>;
  /** What a field holds. */
  value(id: string): Promise<string>;
  /** What an expression is in the page: plain data. */
  ask<T>(expression: string): Promise<T>;
  /** What the browser answers to a command of its protocol. */
  devtools<T>(name: string, args: object): Promise<T>;
  /** Waits until the test id's text fits. */
  sees(id: string, pattern: RegExp): Promise<string>;
  /** Waits until an expression is true in the page, such as one of elements by `marked`. */
  holds(expression: string, what: string): Promise<void>;
  /** Waits until no element has this test id. */
  gone(id: string): Promise<void>;
  /** Waits until what is to be drawn is drawn and the page has nothing to do. */
  settled(): Promise<void>;
  /** Leaves the page and clears what the browser stored for it. */
  forget(): Promise<void>;
  /** Opens the page as a new visitor would: nothing is stored. */
  fresh(): Promise<void>;
  /** Leaves whatever has the focus. */
  blur(): Promise<void>;
  /** Presses keys where the focus is. */
  press(...keys: string[]): Promise<void>;
  /** Writes a line on the say line and enters it; `write` waits until it is written. */
  say(line: string): Promise<void>;
  write(line: string): Promise<void>;
  /** Waits for the crossing, overrules by name whatever stands in the way, and tries the draft or a step of it. */
  tries(what?: string): Promise<void>;
  /** Opens files of the given texts as a new site. */
  open(files: Readonly<Record<string, string>>): Promise<void>;
  /** Opens files that are there as a new site. */
  openPaths(...paths: readonly string[]): Promise<void>;
  /** Holds Control while pressing a key. */
  control(key: string): Promise<void>;
  shot(file: string): Promise<void>;
  /** What the server has printed since it was started last, and its process. */
  printed(): string;
  serverPid(): number;
  /** Stops a server of its own, and starts it again at the same place. */
  stopServer(): Promise<void>;
  startServer(): Promise<void>;
  /** Moves the page's clock on, and that of every page opened afterwards: nobody waits for a trial to be over. */
  later(seconds: number): Promise<void>;
  close(): Promise<void>;
  /** Ends the browser as a crash would, from one moment to the next, and the server; the profile stays. */
  crash(): Promise<void>;
}

/** A site as the browser keeps it, as far as stories ask. */
export interface KeptSite {
  readonly id: string;
  readonly files: readonly { readonly name: string; readonly text: string }[];
  readonly undo: readonly unknown[];
}

/** All sites that the database holds, asked by a connection of its own; none where there is no database yet. */
export const keptSites = (page: Page): Promise<KeptSite[]> =>
  page.ask(`new Promise((done) => {
    const request = indexedDB.open('jolly-gate');
    request.onerror = () => done([]);
    request.onsuccess = () => {
      const base = request.result;
      const end = (sites) => (base.close(), done(sites));
      if (!base.objectStoreNames.contains('sites')) return end([]);
      const all = base.transaction('sites').objectStore('sites').getAll();
      all.onsuccess = () => end(all.result);
    };
  })`);

/** The site that is open, as it is kept. */
export async function keptOpen(page: Page): Promise<KeptSite | undefined> {
  const id = await page.ask<string | null>(`localStorage.getItem('jolly-gate site')`);
  return (await keptSites(page)).find((site) => site.id === id);
}

/** All texts that are kept. */
export const kept = async (page: Page): Promise<string[]> =>
  (await keptSites(page)).flatMap((site) => site.files.map((file) => file.text));

/** The texts of the site that is open, as they are kept; empty where none is yet. */
export const keptText = async (page: Page): Promise<string> =>
  (await keptOpen(page))?.files.map((f) => f.text).join('\n') ?? '';

/** Waits until the texts of the open site, as they are kept, have all these pieces; white space counts as one space. */
export const keeps = (page: Page, ...pieces: readonly (string | RegExp)[]): Promise<unknown> =>
  page.driver.wait(
    async () => {
      const text = (await keptText(page)).replace(/\s+/g, ' ');
      return pieces.every((p) => (typeof p === 'string' ? text.includes(p) : p.test(text)));
    },
    PATIENCE,
    `the site lacks one of ${pieces.join(' · ')}`,
  );

/** The processes of the browser that works in this profile. */
function browsersIn(profile: string): number[] {
  return readdirSync('/proc')
    .filter((entry) => /^\d+$/.test(entry))
    .filter((pid) => {
      try {
        const words = readFileSync(`/proc/${pid}/cmdline`, 'utf8').split('\0');
        return words.includes(`--user-data-dir=${profile}`);
      } catch {
        return false; // It ended meanwhile.
      }
    })
    .map(Number);
}

/** How a page is opened. */
export interface Opening {
  /** Categories that Chromium shall trace. */
  readonly traced?: string;
  /** A profile that was there before. */
  readonly profile?: string;
  /** Whether it is a private window. */
  readonly isPrivate?: boolean;
  /** Words for a server of its own. Without them, the one that `verify` started for all (SERVED_AT) is used, if any. */
  readonly serving?: readonly string[];
  /** Where that server listens, so that the browser finds what it kept of an earlier one; a free port where absent. */
  readonly port?: number;
}

/** Opens a browser on the application. */
export async function openPage({
  traced,
  profile = mkdtempSync(join(tmpdir(), 'gate-profile-')),
  isPrivate = false,
  serving,
  port = 0,
}: Opening = {}): Promise<Page> {
  const shared = serving ? undefined : process.env.SERVED_AT;
  let server = shared === undefined ? await serve(serving, port) : undefined;
  const own = () => {
    if (!server) throw new Error('this server is shared: open the page with a server of its own');
    return server;
  };
  const origin = shared ?? own().origin;
  const ended = async () => {
    const gone = new Promise((resolve) => own().child.once('close', resolve));
    own().child.kill();
    await gone;
  };
  const downloads = mkdtempSync(join(tmpdir(), 'gate-downloads-'));
  const options = new Options();
  options.setChromeBinaryPath(process.env.CHROMIUM ?? '/usr/bin/chromium');
  options.addArguments(
    '--headless=new',
    '--no-sandbox',
    '--disable-gpu',
    '--disable-quic',
    '--no-first-run',
    '--disable-background-networking',
    '--disable-component-update',
    '--disable-sync',
    // Drop-down lists of an address bar that nobody uses are pages of their own.
    '--disable-features=BackForwardCache,WebUIOmniboxPopup,WebUIOmniboxAimPopup',
    '--disable-dev-shm-usage',
    '--force-prefers-reduced-motion',
    `--user-data-dir=${profile}`,
    '--window-size=1280,800',
    ...(isPrivate ? ['--incognito'] : []),
    // Its own page for new tabs costs more than many a story.
    'about:blank',
  );
  options.setUserPreferences({
    'download.default_directory': downloads,
    'download.prompt_for_download': false,
    // A site is several files; a person is asked once whether that is meant.
    'profile.default_content_setting_values.automatic_downloads': 1,
  });
  if (traced !== undefined) {
    // The types ask for an option that the driver has long refused.
    const prefs = { traceCategories: traced, enableNetwork: false, enablePage: false };
    options.setPerfLoggingPrefs(prefs as Parameters<Options['setPerfLoggingPrefs']>[0]);
    const wanted = new logging.Preferences();
    wanted.setLevel(logging.Type.PERFORMANCE, logging.Level.ALL);
    options.setLoggingPrefs(wanted);
  }
  const driver = await new Builder()
    .forBrowser('chrome')
    .setChromeOptions(options)
    .setChromeService(new ServiceBuilder(process.env.CHROMEDRIVER ?? '/usr/bin/chromedriver'))
    .build();
  await driver.manage().setTimeouts({ script: PATIENCE, pageLoad: PATIENCE });
  const protocol = driver as unknown as {
    sendAndGetDevToolsCommand(name: string, args: object): Promise<unknown>;
  };
  const devtools = async <T>(name: string, args: object): Promise<T> =>
    (await protocol.sendAndGetDevToolsCommand(name, args)) as T;
  await devtools('Emulation.setDeviceMetricsOverride', {
    width: 1280,
    height: 800,
    deviceScaleFactor: 1,
    mobile: false,
  });
  const forget = async () => {
    // From a page that holds nothing, and by the browser itself: a page that is still on its way out keeps
    // its database open, and would have a script wait for it.
    await driver.get('about:blank');
    await devtools('Storage.clearDataForOrigin', { origin, storageTypes: 'all' });
  };
  const find = (id: string) => By.css(`[data-testid="${id}"]`);
  /**
   * What an expression is in the page, asked by the protocol: some 5 ms of processor time. The driver's own questions send
   * its way of reading a page along each time, up to 110 ms of it, most of a story's time.
   */
  const ask = async <T>(expression: string): Promise<T> => {
    const { result, exceptionDetails } = await devtools<{ result: { value: T }; exceptionDetails?: object }>(
      'Runtime.evaluate',
      { expression, awaitPromise: true, returnByValue: true },
    );
    if (exceptionDetails) throw new Error(`${JSON.stringify(exceptionDetails)} in ${expression}`);
    return result.value;
  };
  /**
   * Has the page wait until it has an answer.
   * @param probe The body of an asynchronous function, given `rest`: answers `{ answer }`, or `{ saw }`, what is in the way.
   */
  const asking = async <T>(probe: string, what: string): Promise<T> => {
    const end = Date.now() + PATIENCE;
    const expression = `(async () => {
      const rest = (ms) => new Promise((resolve) => setTimeout(resolve, ms));
      const look = async () => { ${probe} };
      let got, isDrawn = false;
      requestAnimationFrame(() => (isDrawn = true));
      for (let n = 0; n < 40; n++) {
        // What is not there yet has no properties.
        got = await look().catch((error) => ({ saw: String(error) }));
        if (got.answer !== undefined) break;
        await rest(50);
      }
      return { ...got, isDrawn };
    })()`;
    let saw = '';
    while (Date.now() < end) {
      const got = await ask<{ answer?: T; saw: string; isDrawn: boolean }>(expression).catch(
        (error: Error) => {
          // The page was left meanwhile: the next one is asked.
          if (/context|navigat|collected/i.test(error.message))
            return { saw, answer: undefined, isDrawn: true };
          throw error;
        },
      );
      if (got.answer !== undefined) return got.answer;
      saw = got.saw;
      // Without a screen, Chromium now and then stops drawing (seen where media were emulated on a busy machine), and goes on
      // once it is asked for a picture.
      if (!got.isDrawn) await driver.takeScreenshot();
    }
    throw new Error(`waited ${PATIENCE / 1000} s: ${what}; ${saw}`);
  };
  /** The same of a shown element: `probe` is given `element`, too. */
  const asked = <T>(id: string, probe: string, what: string): Promise<T> =>
    asking(
      `const element = ${marked(id)}[0];
       if (!element) return { saw: 'it is not there' };
       const isShown = element.checkVisibility({ opacityProperty: true, visibilityProperty: true });
       if (!isShown || !element.getClientRects().length) return { saw: 'it is hidden' };
       ${probe}`,
      `${id}: ${what}`,
    );
  const holds = async (expression: string, what: string) =>
    void (await asking<boolean>(
      `return ${expression} ? { answer: true } : { saw: 'it does not hold: ' + ${JSON.stringify(expression)} };`,
      what,
    ));
  const gone = (id: string) => holds(`${marked(id)}.length === 0`, `${id} stays`);
  const count = (id: string) => ask<number>(`${marked(id)}.length`);
  const blur = () => ask<void>('document.activeElement?.blur()');
  const get = async (id: string) => {
    await asked(id, 'return { answer: true };', 'it is not shown');
    return driver.findElement(find(id));
  };
  const text = (id: string) => asked<string>(id, `return { answer: ${TEXT} };`, 'it is not shown');
  const value = (id: string) => asked<string>(id, 'return { answer: element.value };', 'it is not shown');
  const mouse = (type: string, [x, y]: readonly [number, number], more: object = {}) =>
    devtools('Input.dispatchMouseEvent', { type, x, y, ...more });
  const click = async (id: string) => {
    for (let tries = 0; tries < 10; tries++) {
      // As a person does: it is brought into view, and pressed once it stands still and nothing lies over it.
      const at = await asked<readonly [number, number]>(
        id,
        `if (element.disabled) return { saw: 'it is not enabled' };
         const middle = () => {
           const box = element.getClientRects()[0];
           return box ? [box.left + box.width / 2, box.top + box.height / 2] : [-1, -1];
         };
         const over = ([x, y]) => document.elementFromPoint(x, y);
         const isMet = (at) => element.contains(over(at) ?? document);
         if (!isMet(middle())) element.scrollIntoView({ behavior: 'instant', block: 'center', inline: 'nearest' });
         const at = middle();
         await rest(40);
         if (String(at) !== String(middle())) return { saw: 'it moves' };
         if (!isMet(at)) return { saw: 'something lies over it: ' + over(at)?.outerHTML.slice(0, 200) };
         // Whether it hears of it: what is drawn anew in between has the hand miss it.
         window.heard = false;
         element.addEventListener('click', () => (window.heard = true), { capture: true, once: true });
         return { answer: at };`,
        'it cannot be clicked',
      );
      await mouse('mouseMoved', at);
      await mouse('mousePressed', at, { button: 'left', buttons: 1, clickCount: 1 });
      await mouse('mouseReleased', at, { button: 'left', buttons: 0, clickCount: 1 });
      // Where the page was left by it, nobody is there to ask.
      if (await ask<boolean>('window.heard ?? true').catch(() => true)) return;
    }
    throw new Error(`${id} is missed again and again`);
  };
  const press = (...keys: string[]) =>
    driver
      .actions()
      .sendKeys(...keys)
      .perform();
  const control = (key: string) =>
    driver.actions().keyDown(Key.CONTROL).sendKeys(key).keyUp(Key.CONTROL).perform();
  const fill = async (id: string, value: string) => {
    const isList = await asked<boolean>(
      id,
      `element.focus(); return { answer: element.tagName === 'SELECT' };`,
      'it is not shown',
    );
    // A list is led by keys; a click would open it.
    if (isList) return press(value);
    await click(id);
    // As a paste does, in one step: a field may be drawn anew at any time. Stories by keyboard press their keys one by one,
    // and *restless* asks fields of every key.
    await asked<boolean>(
      id,
      `element.focus();
       element.select();
       const value = ${JSON.stringify(value)};
       document.execCommand(value ? 'insertText' : 'delete', false, value);
       return element.value === value ? { answer: true } : { saw: 'it holds ' + element.value };`,
      `it does not take “${value}”`,
    );
  };
  const openPaths = async (...paths: readonly string[]) => {
    await (await driver.findElement(find('open-files'))).sendKeys(paths.map((p) => resolve(p)).join('\n'));
    await (await get('open-new')).click();
  };
  const say = async (line: string) => {
    await blur();
    await press('/');
    await fill('say', line);
    await press(Key.ENTER);
  };
  return {
    driver,
    origin,
    downloads,
    get,
    count,
    holds,
    gone,
    blur,
    fill,
    press,
    say,
    write: async (line) => {
      await say(line);
      await holds(`${marked('say')}.length === 0`, `not written: ${line}`);
    },
    tries: async (what = 'try') => {
      await holds(CALM, 'no crossing is found');
      await ask<void>(`${marked('overrule')}.forEach((box) => box.checked || box.click())`);
      await click(what);
    },
    open: (files) =>
      openPaths(
        ...Object.entries(files).map(([name, text]) => {
          const path = join(downloads, name);
          writeFileSync(path, text);
          return path;
        }),
      ),
    openPaths,
    devtools,
    ask,
    click,
    text,
    value,
    sees: (id, pattern) =>
      asked<string>(
        id,
        `const text = ${TEXT}; return ${pattern}.test(text) ? { answer: text } : { saw: 'it says: ' + text };`,
        `it never said ${pattern}`,
      ),
    settled: async () => {
      await ask<void>(
        'window.isSettled = false; requestAnimationFrame(() => requestAnimationFrame(() => requestIdleCallback(() => (window.isSettled = true))));',
      );
      await holds('window.isSettled', 'the page is never idle');
    },
    forget,
    fresh: async () => {
      await forget();
      await driver.get(origin);
      await get('box-state');
    },
    later: async (seconds) => {
      const source = (clock: string) =>
        `{ const was = ${clock}; ${clock} = () => was.call(performance) + ${seconds * 1000}; }`;
      await devtools('Page.addScriptToEvaluateOnNewDocument', {
        source: source('Date.now'),
      });
      // A page reads the time once, and from then on by the clock that never jumps.
      await driver.executeScript(source('performance.now'));
    },
    control,
    shot: async (file) => writeFileSync(file, await driver.takeScreenshot(), 'base64'),
    crash: async () => {
      // Until all have ended, they hold what the next browser opens.
      for (let pids = browsersIn(profile); pids.length; pids = browsersIn(profile)) {
        for (const pid of pids)
          try {
            process.kill(pid, 'SIGKILL');
          } catch {
            // It has ended meanwhile.
          }
        await new Promise((resolve) => setTimeout(resolve, 20));
      }
      await driver.quit().catch(() => undefined);
      server?.child.kill();
      rmSync(downloads, { recursive: true, force: true });
    },
    printed: () => own().printed(),
    serverPid: () => own().child.pid!,
    stopServer: ended,
    startServer: async () => void (server = await serve(serving, Number(new URL(origin).port))),
    close: async () => {
      await driver.quit();
      if (server?.child.exitCode === null) await ended();
      rmSync(profile, { recursive: true, force: true });
      rmSync(downloads, { recursive: true, force: true });
    },
  };
}
