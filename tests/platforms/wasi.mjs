// Runs a program for WASI. Usage: node wasi.mjs PROGRAM
import { readFileSync } from "node:fs";
import { WASI } from "node:wasi";

const wasi = new WASI({ version: "preview1", args: ["program"] });
const made = await WebAssembly.instantiate(readFileSync(process.argv[2]), { wasi_snapshot_preview1: wasi.wasiImport });
process.exitCode = wasi.start(made.instance);
