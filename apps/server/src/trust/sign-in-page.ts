/** A page that asks for the token, complete in itself: nothing else is handed out before. */
export const signInPage = (problem = ''): string => `<!doctype html>
<html lang="en">
  <head>
    <meta charset="utf-8" />
    <meta name="viewport" content="width=device-width" />
    <title>Idle Bend</title>
    <style>
      :root { color-scheme: light dark; --paper: #f5f8f4; --ink: #18272c; --faint: #55666b; --line: #ccd5d0; --sheet: #fff; --river: #0f6a70; --problem: #b8361c; }
      @media (prefers-color-scheme: dark) { :root { --paper: #121a1d; --ink: #e7eeea; --faint: #9fb0b0; --line: #33434a; --sheet: #1a2428; --river: #5cc0bd; --problem: #ff8a6b; } }
      body { background: var(--paper); color: var(--ink); font: 16px/1.5 system-ui, sans-serif; display: grid; place-items: center; min-height: 100vh; margin: 0; }
      form { width: 21rem; padding: 1.6rem; background: var(--sheet); border: 1px solid var(--line); border-radius: 1rem; }
      h1 { font-size: 1.3rem; margin: 0 0 1.1rem; display: flex; align-items: center; gap: .55rem; }
      label { font-weight: 600; }
      input, button { font: inherit; width: 100%; box-sizing: border-box; padding: .45rem .7rem; border-radius: .5rem; border: 1px solid var(--line); margin-top: .35rem; }
      input { background: var(--paper); color: var(--ink); }
      input:focus-visible, button:focus-visible { outline: 2px solid var(--river); outline-offset: 1px; }
      button { background: var(--ink); color: var(--paper); font-weight: 600; margin-top: .9rem; cursor: pointer; }
      p { margin: .9rem 0 0; font-size: .85rem; color: var(--faint); }
      p[role=alert] { color: var(--problem); }
    </style>
  </head>
  <body>
    <form method="post" action="/sign-in">
      <h1>
        <svg viewBox="0 0 32 32" width="28" height="28" aria-hidden="true">
          <path d="M4 26C13 26 12 16 16 16s4-10 12-10" fill="none" stroke="var(--river)" stroke-width="3.4" stroke-linecap="round" />
          <circle cx="16" cy="16" r="3.8" fill="var(--sheet)" stroke="var(--problem)" stroke-width="2.4" />
        </svg>
        Idle Bend
      </h1>
      <label>Token of this server<input name="token" type="password" autocomplete="current-password" autofocus required /></label>
      <button>Open</button>
      ${problem ? `<p role="alert">${problem}</p>` : ''}
      <p>Who started this server chose it (IDLE_BEND_TOKEN).</p>
    </form>
  </body>
</html>
`;
