/** What core uses of WebAssembly, which every host has: its own library of types has neither DOM nor Node. */
declare namespace WebAssembly {
  class Module {
    constructor(bytes: Uint8Array);
  }
  class Memory {
    constructor(of: { initial: number });
    readonly buffer: ArrayBuffer;
  }
  class Instance {
    constructor(module: Module, imports: Record<string, Record<string, unknown>>);
    readonly exports: Record<string, unknown>;
  }
}
