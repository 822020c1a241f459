/** The field of an address by which one of our links tells a page who has come. */
export const READER = 'from_email';

/**
 * The script for pages of one's own, 2 kB at most. It tells us that a page was reached where one of our links, or a form,
 * has said by whom. It keeps that for later visits (a cookie of the page's own, for 90 days) only once the page hands it
 * the reader's consent: `ascenso.consent(true)`, while `ascenso.known` says that there is
 * somebody to ask; `false` forgets it. Pages without a reload call `ascenso.reached()`.
 */
export const SITE_SCRIPT = `(function () {
  var script = document.currentScript;
  if (!script) return;
  var door = new URL('/v', script.src).href;
  var name = 'ascenso_reader';
  var address = new URL(location.href);
  var who = address.searchParams.get('${READER}');
  var kept = (new RegExp('(?:^|; )' + name + '=([^;]+)').exec(document.cookie) || [])[1];
  if (who) {
    address.searchParams.delete('${READER}');
    history.replaceState(history.state, '', address.pathname + address.search + address.hash);
    if (kept) keep(7776000);
  } else who = kept;
  function keep(seconds) {
    document.cookie = name + '=' + (seconds ? who : '') + '; max-age=' + seconds + '; path=/; samesite=lax' + (location.protocol === 'https:' ? '; secure' : '');
  }
  function reached(page) {
    if (!who) return;
    var told = { site: script.dataset.site, who: who, page: new URL(page || location.href, location.href).href, title: document.title };
    navigator.sendBeacon(door, new Blob([JSON.stringify(told)], { type: 'text/plain' }));
  }
  window.ascenso = {
    known: !!who,
    reached: reached,
    consent: function (given) {
      if (!given) keep(0);
      else if (who) keep(7776000);
    },
  };
  reached();
})();
`;
