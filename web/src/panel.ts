import "./styles/fonts.css";
import "./styles/tokens.css";
import "./styles/base.css";
import { mount } from "svelte";
import Carry from "./Carry.svelte";
import Legend from "./Legend.svelte";
import Panel from "./Panel.svelte";
import { blinkInPhase } from "./live/blink";

blinkInPhase();
const first = location.pathname.split("/")[1];
mount(first === "legend" ? Legend : first === "carry" ? Carry : Panel, { target: document.getElementById("app")! });
