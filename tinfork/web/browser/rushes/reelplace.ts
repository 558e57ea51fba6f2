// Where the reel lies: nowhere, beside the faces, or under them.
import { $, $select } from "../lib/page.ts";

// To be called once the reel is there: its place is hidden where it has no picture. changed: it lies elsewhere now.
export function placeReel(changed: () => void): void {
  const how = $select("film-lies");
  how.hidden = $("film").hidden;
  const lie = () => {
    $("film").hidden = !how.value;
    $("picture").dataset.film = how.value;
    changed();
  };
  how.addEventListener("change", lie);
  lie();
}
