// A made element with some properties set.
export function element(tag, properties = {}) {
  return Object.assign(document.createElement(tag), properties);
}
