// Start: recordings, who speaks and what, sent in one go; when all is read, the desk opens and speaks.
import { component, fieldOf } from "../lib/page.ts";
import { jobEnded, type Or, pageHeaders, sentenceOf, troubleOf } from "../lib/store/requests.ts";
import { guessed, namesIn } from "./names.ts";

// A recording that was chosen, and whose it is.
interface Chosen {
  id: number;
  file: File;
  name: string;
  who: string;
  leave: string;
}

type Answer = Or<{ job: string; desk: string }>;

// Send a form and hear how much of it has gone. Resolves to the answer.
function send(url: string, form: FormData, gone: (share: number) => void): Promise<Answer> {
  return new Promise((done, failed) => {
    const request = new XMLHttpRequest();
    request.open("POST", url);
    request.responseType = "json";
    for (const [name, value] of Object.entries(pageHeaders())) request.setRequestHeader(name, value);
    request.upload.addEventListener("progress", (event) => gone(event.loaded / event.total));
    request.addEventListener("error", () => failed(new Error(troubleOf(0, url))));
    request.addEventListener("load", () => {
      const trouble = troubleOf(request.status, request.responseURL || url);
      if (trouble) failed(new Error(trouble));
      else done(request.response as Answer);
    });
    request.send(form);
  });
}

component("start", () => ({
    files: [] as Chosen[],
    next: 1,
    who: "",
    words: "",
    name: "",
    rate: "24",
    lie: "together",
    first: "1",
    problem: "",
    doing: "",
    done: "",
    leads: "",
    percent: 0,

    init() {
      this.$watch("who", () => this.guess());
    },
    get names(): string[] {
      return namesIn(this.who);
    },
    get several(): boolean {
      return this.names.length > 1;
    },
    get manyFiles() {
      return this.files.length > 1;
    },
    // Where the recordings will lie, in a sentence.
    get lies() {
      if (this.lie === "script") return "What is said in each is heard and found in the words; every [SCENE …] or [INT. …] among them becomes a scene, with what is said in it.";
      if (this.lie === "turn") return `The first begins at frame ${this.first}, each other one where the one before it ends.`;
      const whose = this.files.map((file) => (this.several ? file.who : this.who));
      return new Set(whose).size === whose.length ? `All begin at frame ${this.first}, each on a track of its own.` : `Each speaker's first begins at frame ${this.first}; what else they say follows it, on the same track.`;
    },
    get empty() {
      return !this.files.length;
    },
    get busy() {
      return Boolean(this.doing);
    },
    get idle() {
      return !this.doing;
    },

    over() {
      this.$el.classList.add("dropping");
    },
    away() {
      this.$el.classList.remove("dropping");
    },
    drop(event: DragEvent) {
      this.away();
      (this.$root as HTMLDetailsElement).open = true;
      this.take(event.dataTransfer?.files ?? []);
    },
    chosen(event: Event) {
      const field = fieldOf(event);
      this.take(field.files ?? []);
      field.value = "";
    },
    take(files: Iterable<File>) {
      for (const file of files) {
        const id = this.next++;
        this.files.push({ id, file, name: file.name, who: guessed(file.name, this.names), leave: `Leave ${file.name} out` });
      }
    },
    guess() {
      for (const file of this.files) if (!this.names.includes(file.who)) file.who = guessed(file.name, this.names);
    },
    leaveOut(file: Chosen) {
      this.files = this.files.filter((one) => one.id !== file.id);
    },

    async go() {
      this.problem = "";
      const form = new FormData();
      for (const { file, who } of this.files) {
        form.append("sound", file);
        form.append("for", who);
      }
      if (!this.several) form.delete("for");
      for (const [name, value] of Object.entries({ who: this.who, words: this.words, name: this.name, rate: this.rate, lie: this.lie, start_frame: this.first })) form.append(name, value);
      this.doing = "Bringing the sound in …";
      try {
        const made = await send(this.$root.dataset.url ?? "", form, (share) => {
          this.percent = share * 50;
        });
        if (made.problem || !made.job) throw new Error(made.problem);
        const { job, desk = "" } = made;
        const message = await this.read(job);
        if (this.lie === "script") this.found(message, desk);
        else location.assign(`${desk}#speak`);
      } catch (failed) {
        this.problem = sentenceOf(failed);
        this.doing = "";
      }
    },
    // What was found is looked at before the page shows its scenes.
    found(message: string, leads: string) {
      this.doing = "";
      this.done = message;
      this.leads = leads;
    },
    async read(job: string): Promise<string> {
      this.doing = this.lie === "script" ? "Finding what is said where …" : "Reading …";
      const { state, message } = await jobEnded(job, (share) => {
        this.percent = 50 + share * 50;
      });
      if (state !== "done") throw new Error(this.lie === "script" ? message : `The scene is there, but it could not be read: ${message}`);
      return message ?? "";
    },
  }));
