/** What a chart shows, as a table. */
export interface ChartTable {
  columns: readonly string[];
  rows: readonly (readonly (string | number | null)[])[];
}

const NAMESPACE = 'http://www.w3.org/2000/svg';
/** Pictures are made twice as fine as they are shown. */
const SCALE = 2;

export function saveCsv({ columns, rows }: ChartTable, name: string): void {
  const cell = (value: string | number | null) => {
    const text = value === null ? '' : `${value}`;
    return /[",\n]/.test(text) ? `"${text.replaceAll('"', '""')}"` : text;
  };
  const text = [columns, ...rows].map((row) => row.map(cell).join(',')).join('\r\n');
  save(new Blob([`${text}\r\n`], { type: 'text/csv;charset=utf-8' }), `${name}.csv`);
}

export function saveSvg(chart: HTMLElement, name: string): void {
  save(new Blob([svgText(chart)], { type: 'image/svg+xml' }), `${name}.svg`);
}

export async function savePng(chart: HTMLElement, name: string): Promise<void> {
  const address = URL.createObjectURL(new Blob([svgText(chart)], { type: 'image/svg+xml' }));
  try {
    const image = new Image();
    image.src = address;
    await image.decode();
    const canvas = document.createElement('canvas');
    canvas.width = image.width * SCALE;
    canvas.height = image.height * SCALE;
    canvas.getContext('2d')?.drawImage(image, 0, 0, canvas.width, canvas.height);
    const blob = await new Promise<Blob | null>((resolve) => canvas.toBlob(resolve, 'image/png'));
    if (blob) save(blob, `${name}.png`);
  } finally {
    URL.revokeObjectURL(address);
  }
}

/** The chart by itself: with its size, its ground and its letters, which the page's style does not reach any more. */
function svgText(chart: HTMLElement): string {
  const drawn = chart.querySelector('svg');
  if (!drawn) return '';
  const { width, height } = drawn.getBoundingClientRect();
  const copy = drawn.cloneNode(true) as SVGSVGElement;
  copy.setAttribute('xmlns', NAMESPACE);
  copy.setAttribute('width', `${Math.round(width)}`);
  copy.setAttribute('height', `${Math.round(height)}`);
  copy.setAttribute('font-family', 'sans-serif');
  copy.setAttribute('font-size', '12');
  const ground = document.createElementNS(NAMESPACE, 'rect');
  ground.setAttribute('width', '100%');
  ground.setAttribute('height', '100%');
  ground.setAttribute('fill', getComputedStyle(document.body).backgroundColor);
  copy.prepend(ground);
  return new XMLSerializer().serializeToString(copy);
}

function save(blob: Blob, name: string): void {
  const link = document.createElement('a');
  link.href = URL.createObjectURL(blob);
  link.download = name;
  link.click();
  URL.revokeObjectURL(link.href);
}
