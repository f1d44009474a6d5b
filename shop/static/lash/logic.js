// What the scripts decide without a page: names of keys, words of what waits, steps of a drag. Tested by themselves.
(() => {
  "use strict";
  const PIXELS_A_STEP = 12;

  // The name under which a key is looked for; "" where the key is the field's own.
  const keyName = (event, inField) => {
    if (event.ctrlKey && event.key.toLowerCase() === "z" && !event.shiftKey) return inField ? "" : "Ctrl+z";
    if (event.ctrlKey || event.altKey || event.metaKey) return "";
    if (event.shiftKey && /^F\d/.test(event.key)) return `Shift+${event.key}`;
    return ["NumpadMultiply", "NumpadDivide"].includes(event.code) ? event.code : event.key;
  };

  // Digits answer a question where nobody types; letters never do anything.
  const maySeek = (name, inField) => Boolean(name) && (name.length > 1 || (!inField && /[0-9]/.test(name)));

  const waitingWords = (waiting) => (waiting.length ? `Waiting to be sent: ${waiting.join(", ")}` : "");

  const uploadWords = (loaded, total) => {
    if (!total) return "The photo is being sent.";
    return loaded < total ? `The photo is being sent: ${Math.floor((100 * loaded) / total)} %.` : "The photo is sent; it is being read.";
  };

  const workingWords = (what, seconds) => `${what} … ${seconds} s. The page answers by itself.`;

  // A slider's value after a drag of so many pixels, within its ends.
  const dragged = (from, pixels, least, most) => Math.min(Math.max(from + Math.round(pixels / PIXELS_A_STEP), least), most);

  // What was typed, with the unit it was typed in where it names none.
  const withUnit = (value, unit) => (/[a-z"%]/i.test(value) || !unit ? value : `${value} ${unit}`);

  globalThis.lashLogic = { keyName, maySeek, waitingWords, uploadWords, workingWords, dragged, withUnit };
})();
