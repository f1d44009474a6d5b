// What the scripts decide without a page; run by node's own runner.
import assert from "node:assert/strict";
import { readFileSync } from "node:fs";
import { test } from "node:test";
import vm from "node:vm";

const code = readFileSync(new URL("../../shop/static/lash/logic.js", import.meta.url), "utf8");
const context = vm.createContext({});
vm.runInContext(code, context);
const logic = context.lashLogic;
const key = (given) => ({ ctrlKey: false, altKey: false, metaKey: false, shiftKey: false, code: "", ...given });

test("Ctrl+Z is the page's own outside a field, and the field's inside", () => {
  assert.equal(logic.keyName(key({ key: "z", ctrlKey: true }), false), "Ctrl+z");
  assert.equal(logic.keyName(key({ key: "Z", ctrlKey: true }), true), "");
  assert.equal(logic.keyName(key({ key: "Z", ctrlKey: true, shiftKey: true }), false), "");
});

test("other shortcuts of the browser are left alone", () => {
  for (const held of ["ctrlKey", "altKey", "metaKey"]) assert.equal(logic.keyName(key({ key: "F4", [held]: true }), false), "");
});

test("the keypad's star and stroke are keys of their own, whatever they type", () => {
  assert.equal(logic.keyName(key({ key: "*", code: "NumpadMultiply" }), true), "NumpadMultiply");
  assert.equal(logic.keyName(key({ key: "*", code: "Digit8" }), true), "*");
});

test("a function key with the shift held is another key", () => {
  assert.equal(logic.keyName(key({ key: "F4", shiftKey: true }), true), "Shift+F4");
  assert.equal(logic.keyName(key({ key: "?", shiftKey: true }), false), "?");
});

test("letters never press anything; digits only where nobody types", () => {
  assert.equal(logic.maySeek("d", false), false);
  assert.equal(logic.maySeek("3", false), true);
  assert.equal(logic.maySeek("3", true), false);
  assert.equal(logic.maySeek("F6", true), true);
  assert.equal(logic.maySeek("", false), false);
});

test("what waits is named in its order, and nothing is said of nothing", () => {
  assert.equal(logic.waitingWords(["8.5", "9"]), "Waiting to be sent: 8.5, 9");
  assert.equal(logic.waitingWords([]), "");
});

test("a photo under way says how much of it is sent, never all before it is", () => {
  assert.match(logic.uploadWords(0, 0), /being sent\.$/);
  assert.match(logic.uploadWords(999, 1000), /99 %/);
  assert.match(logic.uploadWords(1000, 1000), /being read/);
});

test("a drag goes by whole steps and stops at the ends", () => {
  assert.equal(logic.dragged(0, 25, -10, 10), 2);
  assert.equal(logic.dragged(8, 500, -10, 10), 10);
  assert.equal(logic.dragged(-8, -500, -10, 10), -10);
  assert.equal(logic.dragged(3, 5, -10, 10), 3);
});

test("a figure takes its unit along, unless it names one", () => {
  assert.equal(logic.withUnit("8.5", "thou"), "8.5 thou");
  assert.equal(logic.withUnit('0.0085"', "thou"), '0.0085"');
  assert.equal(logic.withUnit("0.2 mm", "thou"), "0.2 mm");
  assert.equal(logic.withUnit("8.5", ""), "8.5");
});
