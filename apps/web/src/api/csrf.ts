/** The token every change carries; it lives as long as the page and is learnt from `me`. */
let csrf = '';

export function rememberCsrf(token: string): void {
  csrf = token;
}

/** The header of what is sent to change something, or to ask with more than an address. */
export const changing = (): Readonly<Record<string, string>> => (csrf === '' ? {} : { 'x-cendra-csrf': csrf });
