// Makes the shipped fonts out of the pinned npm packages: of each only the letters and the weights that the
// styles ask for. What a font file holds is said once, by its `unicode-range` and `font-weight` in tw.css.
import { readFileSync, writeFileSync } from "node:fs";
import subset from "subset-font";

const to = process.argv[2];
const styles = readFileSync("crates/web/styles/tw.css", "utf8");
for (const [face] of styles.matchAll(/@font-face \{[^}]*\}/g)) {
  const said = (what) => face.match(new RegExp(`${what}: ([^;]+);`))[1];
  const [, file, family] = said("src").match(/\/fonts\/((.*?)(?:-more)?\.woff2)/);
  const [min, max] = said("font-weight").split(" ").map(Number);
  const letters = said("unicode-range").split(",").flatMap((range) => {
    const [from, end = from] = range.trim().slice(2).split("-").map((hex) => parseInt(hex, 16));
    return Array.from({ length: end - from + 1 }, (_, n) => String.fromCodePoint(from + n));
  });
  const whole = readFileSync(`node_modules/@fontsource-variable/${family}/files/${family}-latin-wght-normal.woff2`);
  const made = await subset(whole, letters.join(""), { targetFormat: "woff2", variationAxes: { wght: { min, max } } });
  writeFileSync(`${to}/${file}`, made);
}
