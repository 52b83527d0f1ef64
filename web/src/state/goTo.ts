/** Going to another page from what is no part of a page itself. */
type Way = (path: string) => void;

let way: Way = (path) => location.assign(path);

/** How one goes: said by the page that is open. */
export function goBy(one: Way) {
  way = one;
}

export const goTo: Way = (path) => way(path);
