import "./styles/fonts.css";
import "carbon-components-svelte/css/all.css";
import "./styles/tokens.css";
import "./styles/app.css";
import { mount } from "svelte";
import App from "./App.svelte";
import { blinkInPhase } from "./live/blink";

blinkInPhase();
mount(App, { target: document.getElementById("app")! });
