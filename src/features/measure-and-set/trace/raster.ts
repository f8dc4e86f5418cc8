import type { Area } from './picture';

const kept = new WeakMap<CanvasRenderingContext2D, ImageData>();

/**
 * A picture of whole device pixels in memory, put on its canvas at once: where there is no graphics processor, some
 * thousands of rectangles cost the browser's painter many times what one image does.
 */
export class Raster {
  private readonly image: ImageData;
  private readonly pixels: Uint32Array;
  /** In device pixels. */
  readonly width: number;
  readonly height: number;

  constructor(
    private readonly context: CanvasRenderingContext2D,
    paper: string,
  ) {
    const { width, height } = context.canvas;
    const last = kept.get(context);
    this.image = last?.width === width && last.height === height ? last : context.createImageData(width, height);
    kept.set(context, this.image);
    this.width = width;
    this.height = height;
    this.pixels = new Uint32Array(this.image.data.buffer);
    this.pixels.fill(packedColour(paper));
  }

  /** One pixel wide, at least one high; what lies outside is left out. */
  bar(x: number, from: number, to: number, colour: number): void {
    const top = Math.max(0, Math.round(from));
    const end = Math.min(this.height, Math.max(Math.round(from) + 1, Math.round(to)));
    for (let at = top * this.width + x, stop = end * this.width; at < stop; at += this.width) this.pixels[at] = colour;
  }

  put(): void {
    this.context.putImageData(this.image, 0, 0);
  }
}

/** Device pixels to one of the page, in both directions alike. */
export function deviceRatio({ context, width }: Area): number {
  return context.canvas.width / width;
}

/** A colour as computed styles tell it, `rgb(r, g, b)`, as a pixel of an image. */
export function packedColour(colour: string): number {
  const [red = 0, green = 0, blue = 0] = (colour.match(/[\d.]+/g) ?? []).map(Number);
  const [pixel] = new Uint32Array(new Uint8ClampedArray([red, green, blue, 255]).buffer);
  return pixel ?? 0;
}
