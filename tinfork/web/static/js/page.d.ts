// What every page has beside the browser's own: two libraries, and events with a detail.
interface Window {
  Alpine: any;
  htmx: any;
}
interface Event {
  detail?: any;
}

// Elements are found by ids and selectors that the templates promise; which kind each is, is not told again in the code.
interface EventTarget {
  placeholder: any;
  blur: any;
  checked: any;
  close: any;
  closest: any;
  content: any;
  dataset: any;
  defaultValue: any;
  disabled: any;
  files: any;
  focus: any;
  getContext: any;
  height: any;
  hidden: any;
  htmlFor: any;
  matches: any;
  name: any;
  onclose: any;
  options: any;
  querySelector: any;
  reset: any;
  selectedIndex: any;
  selectedOptions: any;
  selectionEnd: any;
  selectionStart: any;
  setSelectionRange: any;
  showModal: any;
  submit: any;
  title: any;
  value: any;
  width: any;
}
