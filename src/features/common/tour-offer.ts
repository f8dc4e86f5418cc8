/** Who has come from the first screen with a first mix is offered the tour, for as long as the window is open. */
const STORED = 'opsimeter-tour';

export function offerTour(): void {
  sessionStorage.setItem(STORED, 'offered');
}

export function isTourOffered(): boolean {
  return sessionStorage.getItem(STORED) === 'offered';
}

export function withdrawTour(): void {
  sessionStorage.removeItem(STORED);
}
