import "./styles/fonts.css";
import "./styles/tokens.css";
import { mount } from "svelte";
import Panel from "./Panel.svelte";
import { blinkInPhase } from "./live/blink";

blinkInPhase();
mount(Panel, { target: document.getElementById("app")! });
