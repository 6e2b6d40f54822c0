// What the student's own page does, and nothing else.
import Alpine from "@alpinejs/csp";
import { log, logged, waiting } from "./log.js";
import { player } from "./play/view.js";
import { listenForKeys } from "./keys.js";
import { measure } from "./measure.js";
import { freshen, keepOffline } from "./offline.js";
import { listenToPage } from "./page.js";

Alpine.data("log", log);
Alpine.data("waiting", waiting);
Alpine.data("player", player(logged));
Alpine.start();
listenForKeys();
measure();
listenToPage();
keepOffline();
freshen();
