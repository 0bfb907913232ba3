// @swc/jest, with the globals of hot loops bound per module: in Jest's sandbox each look-up of a global is slow,
// and the simulated camera alone makes a thousand million of them.
const swc = require("@swc/jest").default ?? require("@swc/jest");

const inner = swc.createTransformer({
  jsc: { parser: { syntax: "typescript", tsx: true }, target: "es2022" },
  module: { type: "es6" },
});
const bound = "const { Math, Float32Array, Uint8Array, Uint16Array } = globalThis;";
const add = (out) => ({ ...out, code: `${bound}${out.code}` });

module.exports = {
  canInstrument: false,
  getCacheKey: (...args) => `${inner.getCacheKey(...args)}-bound1`,
  process: (...args) => add(inner.process(...args)),
  processAsync: async (...args) => add(await inner.processAsync(...args)),
};
