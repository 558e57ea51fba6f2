// A button that is pressed before the page's code has begun is kept, and pressed again once it has.
{
  const waiting = new Set<HTMLElement>();

  const keep = (event: MouseEvent): void => {
    const button = (event.target as Element).closest<HTMLElement>("button, input[type=submit]");
    if (!button) return;
    event.preventDefault();
    event.stopImmediatePropagation();
    waiting.add(button);
  };

  addEventListener("click", keep, true);
  // At the window, after all who wait for this at the document.
  addEventListener("DOMContentLoaded", () => {
    removeEventListener("click", keep, true);
    for (const button of waiting) if (button.isConnected) button.click();
  });
}
