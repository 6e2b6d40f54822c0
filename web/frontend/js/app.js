// What the teacher's pages do.
import Alpine from "@alpinejs/csp";
import editor from "./editor.js";
import morph from "@alpinejs/morph";
import swap from "./swap.js";
import { player } from "./play/view.js";
import { listenForKeys } from "./keys.js";
import { listenToFind } from "./find.js";
import { bringSongs, closeFolds } from "./bring.js";
import { keepForms } from "./keep.js";
import { listenToListen } from "./listen.js";
import { measure } from "./measure.js";
import { listenToPage } from "./page.js";

Alpine.data("editor", editor);
Alpine.data("swap", swap);
Alpine.data("player", player());
Alpine.plugin(morph);
Alpine.start();
listenForKeys();
listenToFind();
listenToListen();
keepForms();
bringSongs();
closeFolds();
measure();
listenToPage();
