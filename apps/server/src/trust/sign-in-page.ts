/** A page that asks for the token, complete in itself: nothing else is handed out before. */
export const signInPage = (problem = ''): string => `<!doctype html>
<html lang="en">
  <head>
    <meta charset="utf-8" />
    <meta name="viewport" content="width=device-width" />
    <title>Idle Bend</title>
    <style>
      :root { color-scheme: light dark; --paper: #f5f8f4; --ink: #18272c; --line: #ccd5d0; --problem: #b8361c; }
      @media (prefers-color-scheme: dark) { :root { --paper: #121a1d; --ink: #e7eeea; --line: #33434a; --problem: #ff8a6b; } }
      body { background: var(--paper); color: var(--ink); font: 16px/1.5 system-ui, sans-serif; display: grid; place-items: center; min-height: 100vh; margin: 0; }
      form { width: 20rem; }
      h1 { font-size: 1.4rem; margin: 0 0 1rem; }
      input, button { font: inherit; width: 100%; box-sizing: border-box; padding: .45rem .7rem; border-radius: .5rem; border: 1px solid var(--line); margin-top: .35rem; }
      button { background: var(--ink); color: var(--paper); margin-top: .8rem; }
      p { color: var(--problem); }
    </style>
  </head>
  <body>
    <form method="post" action="/sign-in">
      <h1>Idle Bend</h1>
      <label>Token of this server<input name="token" type="password" autocomplete="current-password" autofocus required /></label>
      <button>Open</button>
      ${problem ? `<p role="alert">${problem}</p>` : ''}
    </form>
  </body>
</html>
`;
