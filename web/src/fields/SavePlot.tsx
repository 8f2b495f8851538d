import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import type { RefObject } from "react";

interface Props {
  /** The element that holds the drawn plot. */
  plot: RefObject<HTMLElement | null>;
  name: string;
  /** The plot's data, the headings first. */
  rows: (string | number)[][];
}

/** What of a style decides how a drawing looks outside the page. */
const STYLES = [
  "fill",
  "stroke",
  "stroke-width",
  "stroke-dasharray",
  "font-family",
  "font-size",
  "font-weight",
  "text-anchor",
];

/** The drawing by itself: what the page's styles gave it is written into it. */
function drawing(svg: SVGSVGElement, ground: string): string {
  const copy = svg.cloneNode(true) as SVGSVGElement;
  const originals = [svg, ...svg.querySelectorAll<SVGElement>("*")];
  [copy, ...copy.querySelectorAll<SVGElement>("*")].forEach((element, index) => {
    const original = originals[index];
    if (!original) return;
    const style = getComputedStyle(original);
    for (const name of STYLES) element.setAttribute(name, style.getPropertyValue(name));
    element.removeAttribute("class");
  });
  const { width, height } = svg.getBoundingClientRect();
  copy.setAttribute("xmlns", "http://www.w3.org/2000/svg");
  copy.setAttribute("viewBox", `0 0 ${width} ${height}`);
  copy.setAttribute("width", String(width));
  copy.setAttribute("height", String(height));
  const back = document.createElementNS("http://www.w3.org/2000/svg", "rect");
  back.setAttribute("width", "100%");
  back.setAttribute("height", "100%");
  back.setAttribute("fill", ground);
  copy.prepend(back);
  return new XMLSerializer().serializeToString(copy);
}

function save(name: string, type: string, text: string) {
  const link = document.createElement("a");
  link.href = URL.createObjectURL(new Blob([text], { type }));
  link.download = name;
  link.click();
  setTimeout(() => URL.revokeObjectURL(link.href), 1000);
}

/** The data behind a drawing that is a table already. */
export function SaveRows({ name, rows }: { name: string; rows: (string | number)[][] }) {
  return (
    <Button
      color="inherit"
      onClick={() => save(`${name}.csv`, "text/csv", rows.map((row) => row.join(",")).join("\r\n"))}
    >
      Save as CSV
    </Button>
  );
}

/** A plot leaves as a drawing, and its data as a table. */
export function SavePlot({ plot, name, rows }: Props) {
  const savePicture = () => {
    const all = [...(plot.current?.querySelectorAll("svg") ?? [])];
    // The plot itself is the largest drawing in its frame.
    const svg = all.sort((a, b) => b.getBoundingClientRect().width - a.getBoundingClientRect().width)[0];
    if (svg) save(`${name}.svg`, "image/svg+xml", drawing(svg, getComputedStyle(document.body).backgroundColor));
  };
  return (
    <Box sx={{ display: "flex", gap: 1, justifyContent: "flex-end" }}>
      <Button color="inherit" onClick={savePicture}>
        Save as SVG
      </Button>
      <SaveRows name={name} rows={rows} />
    </Box>
  );
}
