// The exposure sheet: which columns it has, how many frames a row, and its files.
import { component, fieldOf, givenIn } from "../lib/page.ts";
import type { Column } from "./cells.ts";
import { type Sheet, type SheetDocument, sheetOf } from "./grid.ts";

const KEPT = "sheet columns";

function tools(given: SheetDocument): void {
  const { startFrame } = given.scene;
  const kept = localStorage.getItem(KEPT)?.split(",").filter(Boolean);
  component("sheetTools", () => ({
    columns: kept ?? [...given.columns],
    step: "1",
    go: String(startFrame),
    first: String(startFrame),
    end: String(startFrame + given.sound.frames - 1),
    paper: "A4",
    rows: "40",
    sheet: null as Sheet | null,

    init() {
      this.sheet = sheetOf(given);
      this.shown();
    },
    get ordered(): Column[] {
      return given.columns.filter((name) => this.columns.includes(name));
    },
    shown() {
      this.sheet?.show(this.ordered, Number(this.step));
    },
    changed(event: Event) {
      if (!fieldOf(event).closest("fieldset") || fieldOf(event).matches(".mono")) return;
      this.$nextTick(() => {
        localStorage.setItem(KEPT, this.ordered.join(","));
        this.shown();
      });
    },
    goTo() {
      const frame = Number.parseInt(this.go, 10);
      if (Number.isFinite(frame)) this.sheet?.goTo(frame);
    },
    file(kind: string): string {
      const asked = new URLSearchParams({ first: this.first, end: this.end, step: this.step, rows: this.rows, paper: this.paper, columns: this.ordered.join(",") });
      return `${given.fileUrl.replace("KIND", kind)}?${asked}`;
    },
    get pdf(): string {
      return this.file("pdf");
    },
    get ods(): string {
      return this.file("ods");
    },
    get csv(): string {
      return this.file("csv");
    },
  }));
}

const given = givenIn<SheetDocument>("sheet-document");
if (given) tools(given);
