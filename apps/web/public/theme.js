// Before the first paint: the theme chosen here earlier, or the system's.
(function () {
  var chosen = localStorage.getItem('cendra.theme');
  var dark = chosen ? chosen === 'dark' : matchMedia('(prefers-color-scheme: dark)').matches;
  document.documentElement.dataset.theme = dark ? 'dark' : 'light';
})();
