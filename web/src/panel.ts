import "./styles/fonts.css";
import "./styles/tokens.css";
import { mount } from "svelte";
import Legend from "./Legend.svelte";
import Panel from "./Panel.svelte";
import { blinkInPhase } from "./live/blink";

blinkInPhase();
mount(location.pathname.startsWith("/legend/") ? Legend : Panel, { target: document.getElementById("app")! });
