/** What a drawing takes from the page's styles: it has to stand in the file itself. */
const TAKEN = [
  'fill',
  'fill-opacity',
  'stroke',
  'stroke-width',
  'stroke-dasharray',
  'stroke-opacity',
  'font-size',
  'font-family',
  'text-anchor',
];
const NAMESPACE = 'http://www.w3.org/2000/svg';
const LINE_HEIGHT = 16;
const GAP = 12;
const SCALE = 2;

/** Takes the charts of an element away as one drawing, with their names and what is said of them below. */
export async function takeChart(of: HTMLElement, kind: 'svg' | 'png', name: string, words: readonly string[]): Promise<void> {
  const drawing = drawingOf(of, words);
  const file = kind === 'svg' ? new Blob([drawing.text], { type: 'image/svg+xml' }) : await fileOf(await pictureOf(drawing));
  const link = document.createElement('a');
  link.href = URL.createObjectURL(file);
  link.download = `${name}.${kind}`;
  link.click();
  URL.revokeObjectURL(link.href);
}

/** The same as a photograph in base64, which papers hold as it is: nobody has to unpack it. */
export async function photographOf(of: HTMLElement): Promise<string> {
  const canvas = await pictureOf(drawingOf(of, []));
  return canvas.toDataURL('image/jpeg', 0.92).replace(/^[^,]*,/, '');
}

interface Drawing {
  readonly text: string;
  readonly width: number;
  readonly height: number;
}

function drawingOf(of: HTMLElement, words: readonly string[]): Drawing {
  const figure = of.querySelector('figure') ?? of;
  const page = figure.getBoundingClientRect();
  const style = getComputedStyle(of);
  const out = document.createElementNS(NAMESPACE, 'svg');
  const place = (node: Element, at: DOMRect) => {
    node.setAttribute('x', String(at.left - page.left + GAP));
    node.setAttribute('y', String(at.top - page.top + GAP));
    out.append(node);
  };
  for (const svg of figure.querySelectorAll('svg')) place(plain(svg), svg.getBoundingClientRect());
  // Names of small charts and of series stand beside their drawings.
  for (const words of figure.querySelectorAll('p, li')) {
    const text = words.textContent.trim();
    if (text !== '' && words.closest('.sr-only') === null) out.append(line(text, words, page, style));
  }
  const width = Math.ceil(page.width) + 2 * GAP;
  const below = Math.ceil(page.height) + 2 * GAP;
  words.forEach((each, at) => out.append(written(each, GAP, below + (at + 1) * LINE_HEIGHT, style)));
  const height = below + (words.length + 1) * LINE_HEIGHT;
  const ground = document.createElementNS(NAMESPACE, 'rect');
  ground.setAttribute('width', '100%');
  ground.setAttribute('height', '100%');
  ground.setAttribute('fill', groundOf(of));
  out.prepend(ground);
  out.setAttribute('xmlns', NAMESPACE);
  out.setAttribute('width', String(width));
  out.setAttribute('height', String(height));
  return { text: new XMLSerializer().serializeToString(out), width, height };
}

/** What a drawing stands on: the first thing around it that is not clear. */
function groundOf(of: Element): string {
  const { backgroundColor } = getComputedStyle(of);
  const clear = backgroundColor === 'transparent' || backgroundColor === 'rgba(0, 0, 0, 0)';
  return clear && of.parentElement ? groundOf(of.parentElement) : backgroundColor;
}

function line(text: string, of: Element, page: DOMRect, style: CSSStyleDeclaration): Element {
  const at = of.getBoundingClientRect();
  // The name of a series stands behind its swatch.
  const swatch = of.querySelector('svg')?.getBoundingClientRect();
  const left = swatch ? swatch.right + 6 : at.left;
  return written(text, left - page.left + GAP, at.top - page.top + GAP + 12, style);
}

function written(text: string, x: number, y: number, { color, fontFamily }: CSSStyleDeclaration): Element {
  const node = document.createElementNS(NAMESPACE, 'text');
  node.textContent = text;
  for (const [key, value] of Object.entries({ x: String(x), y: String(y), fill: color, 'font-family': fontFamily, 'font-size': '12' }))
    node.setAttribute(key, value);
  return node;
}

/** A drawing with what the page's styles say of it written into it. */
function plain(svg: SVGSVGElement): Element {
  const copy = svg.cloneNode(true) as SVGSVGElement;
  const [own, theirs] = [svg.querySelectorAll('*'), copy.querySelectorAll('*')];
  own.forEach((each, at) => {
    const style = getComputedStyle(each);
    for (const property of TAKEN) {
      const value = style.getPropertyValue(property);
      if (value !== '') theirs[at]?.setAttribute(property, value);
    }
    theirs[at]?.removeAttribute('class');
  });
  return copy;
}

async function pictureOf({ text, width, height }: Drawing): Promise<HTMLCanvasElement> {
  const image = new Image();
  // The page shows pictures of its own and of data addresses only.
  image.src = `data:image/svg+xml;charset=utf-8,${encodeURIComponent(text)}`;
  await image.decode();
  const canvas = document.createElement('canvas');
  canvas.width = width * SCALE;
  canvas.height = height * SCALE;
  const context = canvas.getContext('2d');
  if (!context) throw new Error('this browser draws no pictures');
  context.scale(SCALE, SCALE);
  context.drawImage(image, 0, 0);
  return canvas;
}

const fileOf = (canvas: HTMLCanvasElement): Promise<Blob> =>
  new Promise((resolve, reject) => canvas.toBlob((made) => (made ? resolve(made) : reject(new Error('no picture was made'))), 'image/png'));
