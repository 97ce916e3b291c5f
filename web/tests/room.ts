/** A small room as the panels are shown it. */
import { type Occasion, type Project, type View } from "../src/api/client";

export const noon = {
  key: "noon",
  name: "Noon",
  when: "2026-06-21T12:30:00",
  season: "autumn",
  levels: { Ceiling: 80 },
} as unknown as Occasion;
export const view = {
  key: "inside",
  name: "Inside",
  lens: { f_number: 8, shutter_s: 1 / 60, iso: 100 },
} as unknown as View;
const fixture = (key: string, group: string, on = true) => ({ key, kind: "spot", group, on });
export const project = {
  name: "Room",
  stage: { white_card: false },
  placements: [{ key: "room", name: "room.glb", asset: "a", position: [1, 2, 0], turn_deg: 0, scale: 0.001 }],
  layers: [{ key: "garden", name: "Garden", in_models: "planting" }],
  fixtures: [
    fixture("a", "Ceiling"),
    fixture("b", "Ceiling"),
    fixture("c", "Shelves"),
    fixture("d", "Shelves", false),
  ],
  kinds: [{ key: "spot", name: "Spot" }],
  scenes: [
    { key: "dinner", name: "Dinner", levels: { Ceiling: 80 } },
    { key: "work", name: "Work", levels: { Ceiling: 100, Shelves: 50 } },
  ],
  looks: [{ key: "plain", name: "Plain" }],
  views: [view],
  occasions: [noon],
} as unknown as Project;
