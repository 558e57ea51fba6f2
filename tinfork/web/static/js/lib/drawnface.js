// A character's face with all of their mouths in it, of which one is shown.
const SVG = "http://www.w3.org/2000/svg";

// Markup from our own server, put into a new SVG element.
export function svg(viewBox, markup) {
  const element = document.createElementNS(SVG, "svg");
  element.setAttribute("viewBox", viewBox);
  element.innerHTML = markup;
  return element;
}

export class DrawnFace {
  // chart: the face and its drawings, as a stave's document has them.
  constructor(chart) {
    const mouths = chart.drawings.map((d, i) => `<g data-mouth="${i}" display="none" transform="${chart.mouth}">${d.svg}</g>`);
    this.element = svg(chart.view.join(" "), chart.head + mouths.join("") + chart.front);
    this.mouths = [...this.element.querySelectorAll("[data-mouth]")];
    this.place = chart.mouth;
    this.rows = new Map(chart.drawings.map((d, i) => [d.name, i]));
  }

  // bend: [wide, tall, lean] of a drawing that is stretched; others: [drawing, share] of those that are seen with it.
  show(name, bend = null, others = []) {
    const shares = new Map(others.map(([one, share]) => [this.rows.get(one), share]));
    this.mouths.forEach((mouth, i) => {
      const own = i === this.rows.get(name);
      mouth.setAttribute("display", own || shares.has(i) ? "inline" : "none");
      mouth.setAttribute("opacity", own ? "1" : String(shares.get(i) ?? 0));
      mouth.setAttribute("transform", own && bend ? `${this.place} skewX(${-bend[2]}) scale(${bend[0]} ${bend[1]})` : this.place);
    });
  }
}
