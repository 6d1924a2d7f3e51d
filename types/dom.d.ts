// What these pages know and the types of the DOM do not: whatever an event of theirs comes from is an element, and
// what is asked for a value, a tick or files by its id or its selector is a field. Read by ./run lint alone.

interface Field {
  value: any;
  checked: boolean;
  disabled: boolean;
  defaultValue: string;
  defaultChecked: boolean;
  files: FileList | null;
  name: string;
  type: string;
  min: any;
  max: any;
  accept: string;
  form: HTMLFormElement | null;
  options: HTMLOptionsCollection;
  selectedOptions: HTMLCollectionOf<HTMLOptionElement>;
  elements: any;
}

interface Findable {
  closest(selectors: string): HTMLElement | null;
  querySelector(selectors: string): HTMLElement | null;
  querySelectorAll(selectors: string): NodeListOf<HTMLElement>;
}

interface EventTarget extends Field, Findable {
  id: string;
  dataset: Record<string, any>;
  parentElement: HTMLElement | null;
  classList: DOMTokenList;
  matches(selectors: string): boolean;
  blur(): void;
  getAttribute(name: string): string | null;
  setAttribute(name: string, value: string): void;
  getBoundingClientRect(): DOMRect;
}

interface Element extends Field, Findable {
  dataset: Record<string, any>;
  hidden: boolean;
  open: boolean;
  title: string;
  style: CSSStyleDeclaration;
  setAttribute(name: string, value: string | number | boolean): void;
  focus(options?: FocusOptions): void;
  click(): void;
}

interface HTMLElement extends Field, Findable {
  open: boolean;
  src: string;
  href: string;
  viewBox: SVGAnimatedRect;
  ownerSVGElement: any;
  reset(): void;
  select(): void;
  requestSubmit(): void;
  getScreenCTM(): DOMMatrix;
}

interface Document {
  getElementById(id: string): HTMLElement | null;
  querySelector(selectors: string): HTMLElement | null;
  querySelectorAll(selectors: string): NodeListOf<HTMLElement>;
}

interface CSSStyleDeclaration {
  setProperty(property: string, value: string | number | null, priority?: string): void;
}

interface Event {
  detail: any;
  dataTransfer: DataTransfer | null;
}

interface Window {
  htmx: any;
  Alpine: any;
  gaitwire: any;
}
