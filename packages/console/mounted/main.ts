/* Components by themselves, without a service, for tests: `show` puts one on the page, `kept` tells what it said last. */
import '../src/app.css';
import { type Component, mount, unmount } from 'svelte';
import Calls from '../src/chat/Calls.svelte';
import Markdown from '../src/chat/Markdown.svelte';
import LinksEditor from '../src/editor/flow/LinksEditor.svelte';
import MistakesMenu from '../src/editor/flow/MistakesMenu.svelte';
import { Editor } from '../src/editor/session/session.svelte.js';
import StepExtras from '../src/editor/step/StepExtras.svelte';
import StepName from '../src/editor/step/StepName.svelte';
import Value from '../src/values/Value.svelte';
import FieldHost from './FieldHost.svelte';

const COMPONENTS: Record<string, Component<never>> = {
  Calls,
  FieldHost,
  LinksEditor,
  Markdown,
  MistakesMenu,
  StepExtras,
  StepName,
  Value,
};
const place = document.getElementById('here')!;
let shown: object | null = null;
let kept: unknown;
let editor: Editor | null = null;

/** Shows a component; one that edits gets an editor of the document. */
function show(name: string, props: Record<string, unknown>, document?: object): void {
  if (shown) void unmount(shown);
  kept = undefined;
  const { mistakes = [], warnings = [], cards = [] } = props as Record<string, never[]>;
  editor = document
    ? new Editor((document as { name: string }).name, {
        document,
        text: '',
        cards,
        links: [],
        mistakes,
        warnings,
        version: 1,
      } as unknown as ConstructorParameters<typeof Editor>[1])
    : null;
  const all = { ...props, ...(editor && { editor }), onKept: (value: unknown) => (kept = value), onShow: () => {} };
  // Which component it is, only the test knows.
  shown = mount(COMPONENTS[name]! as unknown as Component<typeof all>, { target: place, props: all });
}

Object.assign(globalThis, { show, kept: () => kept, documentNow: () => editor?.document, editorNow: () => editor });
