import { readFileSync } from 'node:fs';
import type { Page } from '@playwright/test';
import { expect, test } from './support';

/** Every route and every drawer at several sizes of the page: nothing is cut off sideways, covered, or set letter by letter. */

const SIZES = [
  ['1024 × 700', { width: 1024, height: 700 }],
  ['1600 × 1000', { width: 1600, height: 1000 }],
  // What 200 % of a page of 1280 × 800 leaves.
  ['200 %', { width: 640, height: 400 }],
] as const;

const source = (path: string) => readFileSync(new URL(`../apps/web/src/${path}`, import.meta.url), 'utf8');

/** The paths of all pages, read from the router, so that a new one is looked at too. */
const routes = [...source('app/routes.tsx').matchAll(/path: '([^']+)'/g)].map(([, path = '']) => path);
const drawers = [...(/const DRAWERS = \[([^\]]+)\]/.exec(source('bench/status-line.tsx'))?.[1] ?? '').matchAll(/'([^']+)'/g)].map(
  ([, name = '']) => name,
);

interface Fault {
  readonly what: string;
  readonly text: string;
}

/** What is wrong with the boxes of the page as it is drawn. */
async function faults(page: Page): Promise<readonly Fault[]> {
  return page.evaluate(() => {
    const found: { what: string; text: string }[] = [];
    const wide = document.documentElement.scrollWidth - document.documentElement.clientWidth;
    if (wide > 1) found.push({ what: `the page scrolls sideways by ${wide}`, text: '' });
    const scrolls = (element: Element | null): boolean => {
      for (let at = element; at; at = at.parentElement) {
        const { overflowX, overflowY } = getComputedStyle(at);
        if (/auto|scroll/.test(`${overflowX} ${overflowY}`)) return true;
      }
      return false;
    };
    const clipped = (element: Element, { x, y }: { x: number; y: number }): boolean => {
      if (x < 0 || y < 0 || x > window.innerWidth || y > window.innerHeight) return true;
      for (let at: Element | null = element; at; at = at.parentElement) {
        if (getComputedStyle(at).overflow === 'visible') continue;
        const box = at.getBoundingClientRect();
        if (x < box.left + 2 || x > box.right - 2 || y < box.top + 2 || y > box.bottom - 2) return true;
      }
      return false;
    };
    const textBoxes = (element: Element) =>
      [...element.childNodes].flatMap((node) => {
        if (node.nodeType !== Node.TEXT_NODE) return [];
        const range = document.createRange();
        range.selectNodeContents(node);
        return [...range.getClientRects()];
      });
    const seen = (element: Element) => {
      const { x, y, width, height } = element.getBoundingClientRect();
      if (width < 2 || height < 2) return undefined;
      return { x, y, width, height, right: x + width, bottom: y + height };
    };
    const texts = [...document.querySelectorAll('body *')].filter((each) => {
      const own = [...each.childNodes].some((node) => node.nodeType === Node.TEXT_NODE && (node.textContent ?? '').trim() !== '');
      const style = getComputedStyle(each);
      return own && style.visibility !== 'hidden' && style.clip === 'auto' && !each.closest('.sr-only, [aria-hidden="true"], svg, option');
    });
    for (const element of texts) {
      const box = seen(element);
      if (!box) continue;
      const text = (element.textContent ?? '').trim().slice(0, 40);
      if (!scrolls(element) && box.right > document.documentElement.clientWidth + 1) found.push({ what: 'is cut off at the right', text });
      const line = Number.parseFloat(getComputedStyle(element).lineHeight) || 18;
      const letters = text.length;
      if (letters > 6 && box.width < 24 && box.height > 3 * line) found.push({ what: 'is set letter by letter', text });
    }
    // Where a text is drawn, and not clipped by what scrolls, nothing else may lie: neither another text nor a control.
    for (const element of texts) {
      if (!seen(element)) continue;
      for (const { x, y, width, height } of textBoxes(element)) {
        if (width < 8 || height < 6) continue;
        for (const part of [0.1, 0.5, 0.9]) {
          const point = { x: x + width * part, y: y + height / 2 };
          if (clipped(element, point)) continue;
          const there = document.elementFromPoint(point.x, point.y);
          if (!there || element.contains(there) || there.contains(element)) continue;
          const over = there.closest('aside, [role=dialog]');
          if (over && !over.contains(element)) continue;
          found.push({
            what: `is covered by ${there.tagName} “${(there.textContent ?? '').trim().slice(0, 30)}”`,
            text: (element.textContent ?? '').trim().slice(0, 40),
          });
          break;
        }
      }
    }
    return found;
  });
}

async function still(page: Page): Promise<void> {
  await expect(page.getByText(/^(Opening|Looking|Reading)/)).toHaveCount(0);
}

test('the router and the drawers are known to this test', () => {
  expect(routes.length).toBeGreaterThan(8);
  expect(drawers.length).toBeGreaterThan(3);
});

for (const [size, viewport] of SIZES) {
  test(`every page is usable at ${size}`, async ({ page, cendra, signIn }) => {
    await page.setViewportSize(viewport);
    await page.goto(`${cendra}/sign-in`);
    expect(await faults(page), '/sign-in').toEqual([]);
    await signIn('steward');
    const ids = {
      datasets: await idOf(page, `${cendra}/datasets`, 'Harvests, shares and running totals'),
      sources: await idOf(page, `${cendra}/sources`, 'Cooperative database'),
    };
    for (const route of routes) {
      if (route === '/sign-in') continue;
      const view = route.startsWith('/') || route === '*' ? route.replace('*', '/nowhere') : `/datasets/:id/${route}`;
      const path = view.replace(':id', view.startsWith('/sources') ? ids.sources : ids.datasets);
      await page.goto(`${cendra}${path}`);
      await expect(page.locator('main, [role=main]').first()).toBeVisible();
      await still(page);
      expect(await faults(page), path).toEqual([]);
      if (!/\/(bench|fields|proof)$/.test(path)) continue;
      for (const drawer of drawers) {
        await page.getByRole('button', { name: drawer, exact: true }).click();
        await expect(page.getByRole('complementary', { name: drawer })).toBeVisible();
        await still(page);
        expect(await faults(page), `${path}, ${drawer}`).toEqual([]);
        await page.getByRole('button', { name: `Close ${drawer}` }).click();
        await expect(page.getByRole('button', { name: drawer, exact: true })).toBeFocused();
      }
    }
  });
}

async function idOf(page: Page, list: string, name: string): Promise<string> {
  await page.goto(list);
  const href = await page.getByRole('link', { name, exact: true }).first().getAttribute('href');
  return href?.split('/')[2] ?? '';
}

test('the trail keeps its width whatever is opened beside it, also over a reload', async ({ page, signIn }) => {
  await signIn('analyst');
  await page.getByRole('link', { name: 'Harvests worth delivering' }).click();
  const width = async () => (await page.getByRole('region', { name: 'Trail' }).boundingBox())?.width;
  const before = await width();
  for (let round = 0; round < 2; round++) {
    await page.getByRole('button', { name: 'Parameters', exact: true }).click();
    await expect(page.getByRole('complementary', { name: 'Parameters' })).toBeVisible();
    expect(await width()).toBe(before);
    await page.reload();
    await expect(page.getByRole('region', { name: 'Trail' })).toBeVisible();
    expect(await width()).toBe(before);
  }
  // What somebody gives it is kept.
  await page.getByRole('separator', { name: 'Width of the trail' }).focus();
  await page.keyboard.press('ArrowRight');
  await expect.poll(width).toBeGreaterThan(before ?? 0);
  const given = await width();
  await page.reload();
  await expect(page.getByRole('region', { name: 'Trail' })).toBeVisible();
  expect(await width()).toBeCloseTo(given ?? 0, -1);
  // A narrow window shows less of it, and does not change what is kept.
  await page.setViewportSize({ width: 640, height: 600 });
  await page.reload();
  await expect(page.getByRole('region', { name: 'Trail' })).toBeVisible();
  expect(await width()).toBeLessThan(given ?? 0);
  await page.setViewportSize({ width: 1280, height: 800 });
  await page.reload();
  await expect(page.getByRole('region', { name: 'Trail' })).toBeVisible();
  expect(await width()).toBeCloseTo(given ?? 0, -1);
});
