// Every page's script: what is needed where there is something to press.
import "./press.js";
import "./page.js";
import "./sheet.js";
import "./spoken.js";
import "./shell.js";
import "./blinks.js";
import "./chain.js";
import "./grid.js";
import "./rows.js";
import "./plan.js";
import "./sign.js";
import "./scan.js";
import "./clip.js";
import "./practice.js";
import "./install.js";
import "./onesheet.js";
import "./open.js";
