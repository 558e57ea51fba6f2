// How a drawing of a chart is changed: the page shows it as it is then.
import { ask, formOf, sentenceOf } from "../lib/store/requests.ts";

// Why it was not kept, in a sentence; refused: the one for what the server does not take.
export async function changeDrawing(url: string, fields: Record<string, string | number>, refused: string): Promise<string> {
  try {
    const answer = await ask(url, { body: formOf({ do: "change", ...fields }) });
    if (!answer.ok) return refused;
    location.reload();
    return "";
  } catch (failed) {
    return sentenceOf(failed);
  }
}
