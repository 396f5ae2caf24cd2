import "./styles/fonts.css";
import "carbon-components-svelte/css/all.css";
import "./styles/tokens.css";
import "./styles/app.css";
import { mount } from "svelte";
import App from "./App.svelte";

mount(App, { target: document.getElementById("app")! });
