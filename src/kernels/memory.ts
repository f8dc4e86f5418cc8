/** Behind the modules' own data, by a wide margin. */
const FIRST_FREE_BYTE = 16_384;
const PAGE_BYTES = 65_536;

/** Places in a module's memory, one behind the other. */
export class MemoryLayout {
  bytes = FIRST_FREE_BYTE;

  /** @returns the address of so many bytes, a multiple of 16 */
  reserve(length: number): number {
    const at = this.bytes;
    this.bytes = Math.ceil((at + length) / 16) * 16;
    return at;
  }
}

/** Compiled once a thread; each is some kilobytes. */
const compiled = new Map<string, WebAssembly.Module>();

/** An instance of a module, given in base64, with a memory of its own that holds all that was laid out. */
export function instantiate<Exports extends object>(
  base64: string,
  layout: MemoryLayout,
): { exports: Exports; memory: ArrayBuffer } {
  let module = compiled.get(base64);
  if (!module) {
    module = new WebAssembly.Module(Uint8Array.from(atob(base64), (character) => character.charCodeAt(0)));
    compiled.set(base64, module);
  }
  const memory = new WebAssembly.Memory({ initial: Math.ceil(layout.bytes / PAGE_BYTES) });
  const instance = new WebAssembly.Instance(module, { env: { memory, abort: () => undefined } });
  const exports = instance.exports as Exports & { dataEnd(): number };
  if (exports.dataEnd() > FIRST_FREE_BYTE)
    throw new Error('a module has more data of its own than is kept free for it');
  return { exports, memory: memory.buffer };
}
