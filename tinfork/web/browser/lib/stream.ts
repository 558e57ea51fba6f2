// The connection by which a page hears of changes. It is held while the page is looked at, as a browser has few to give;
// whatever happened meanwhile is made up for when it is there again.
import { waitAfter } from "./store/requests.ts";
import { tell, type Told } from "./told.ts";

export class Stream {
  readonly #url: string;
  readonly #ended: () => void;
  #source: EventSource | null = null;
  #failures = 0;
  #over = false;

  // ended: who looks at the page may do so no longer.
  constructor(url: string, ended: () => void) {
    this.#url = url;
    this.#ended = ended;
    document.addEventListener("visibilitychange", () => this.#look());
    // A page that is kept to come back to must not hold a connection.
    addEventListener("pagehide", () => this.#close());
    addEventListener("pageshow", () => this.#look());
    this.#look();
  }

  #look(): void {
    if (document.visibilityState !== "visible") this.#close();
    else if (!this.#source && !this.#over) this.#open();
  }

  #close(): void {
    this.#source?.close();
    this.#source = null;
  }

  #open(): void {
    const source = new EventSource(this.#url);
    this.#source = source;
    source.onmessage = ({ data }) => this.#hear(JSON.parse(data) as Told);
    source.onerror = () => {
      if (source.readyState !== EventSource.CLOSED || this.#source !== source) return;
      this.#source = null;
      setTimeout(() => this.#look(), waitAfter(this.#failures++));
    };
  }

  #hear(told: Told): void {
    this.#failures = 0;
    if (told.kind !== "ended") {
      tell(told);
      return;
    }
    this.#over = true;
    this.#close();
    this.#ended();
  }
}
