/** The one server of this process, as far as whoever acknowledges has to know it: routes and pages may be bundled apart. */
const held = globalThis as { opsimeterServer?: { folder: { check(): void } } };

/** What has been done is acknowledged only where it is found again. Throws `data-folder-gone`. */
export function checkSaved(): void {
  held.opsimeterServer?.folder.check();
}
