// Takes glyphs from Carbon's icons (Apache-2.0) into the file that Synaptor draws
// faces and prints from. Run it in web/ after npm ci:
//   node ../tools/glyphs/glyphs.mjs > ../internal/core/face/glyphs.carbon.json
import { readFileSync } from "node:fs";

const names = `Camera VideoChat Microphone MicrophoneOff VolumeUp VolumeDown VolumeMute Music Headphones Chat Bullhorn Notification
  Light Sun Moon Star StarFilled Rocket Earth Cloud Rain Snow Lightning Fire Play Pause Stop SkipBack SkipForward Repeat Shuffle
  Timer Time Calendar Document Image Video Screen Laptop Tablet Phone Keyboard Settings Tools Locked Unlocked View ViewOff Warning
  Error Checkmark Close Add Subtract Help Information User UserMultiple Group Home Location Map Compass Flag Bookmark Tag Favorite
  ThumbsUp ThumbsDown FaceSatisfied Gift Trophy Restaurant Bus Car Train Bicycle Run Wifi Connect Plug Power Dashboard Grid List
  Layers Filter Crop Search ArrowUp ArrowDown ArrowLeft ArrowRight Renew Undo Redo Reset Launch Link Share Send Email Attachment
  Folder Save Download Upload Printer Edit Pen ColorPalette Quotes Translate Number_1 Number_2 Number_3 Number_4 Number_5 Number_6
  Number_7 Number_8 Number_9 Asterisk Fade Opacity Contrast Temperature Fragile Theater Events PresentationFile Construction
  Hearing Recording RecordingFilled StopFilled PlayFilled PauseFilled Popup OpenPanelLeft SplitScreen FitToScreen Maximize
  Minimize ChevronUp ChevronDown Portfolio Microscope Idea CircleDash TrashCan TextFont ClosedCaption Cafe Plane GameWireless
  ChartBar ZoomIn DoorKey CircleFilled SquareOutline CenterCircle`
  .split(/\s+/)
  .filter(Boolean);

const out = {};
for (const name of names) {
  let file;
  try {
    file = readFileSync(`node_modules/carbon-icons-svelte/lib/${name}.svelte`, "utf8");
  } catch {
    console.error(`Carbon has no icon ${name}`);
    continue;
  }
  const inner = file
    .slice(file.indexOf("{/if}") + 5, file.indexOf("</svg>"))
    .replace(/\s*data-icon-path="[^"]*"/g, "")
    .replace(/<path fill="none"[^>]*><\/path>/g, "")
    .trim();
  const id = name
    .replace("_", "")
    .replace(/([a-z])([A-Z0-9])/g, "$1-$2")
    .toLowerCase();
  out[id] = inner;
}
console.log(JSON.stringify(out, null, 1));
