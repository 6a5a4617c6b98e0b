//! Every page for everyone: axe-core's checks, and what it does not check.

use serde_json::Value;

use crate::support::Desk;

const AXE: &str = include_str!("../../vendor/axe.min.js");
const PAGES: [&str; 6] = ["/", "/shots/Saltglass/SG010", "/plates", "/rack", "/renders", "/bin"];

/// axe-core's serious and critical findings on the page as it stands.
async fn findings(desk: &Desk) -> Vec<String> {
    desk.run(AXE).await;
    let script = "const done = arguments[arguments.length - 1];
        axe.run(document, { runOnly: ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa', 'best-practice'] }).then(found => done(found.violations
            .filter(one => ['serious', 'critical'].includes(one.impact))
            .map(one => `${one.id}: ${one.nodes.map(node => node.html.slice(0, 120)).slice(0, 3).join(' | ')}`)));";
    let found = desk.browser.execute_async(script, vec![]).await.unwrap();
    found.as_array().unwrap().iter().map(|one| one.as_str().unwrap().to_owned()).collect()
}

/// Buttons, links, fields and marks that are smaller than 24 px either way (WCAG 2.2, 2.5.8); links in running text and
/// what is not shown do not count, and the room that a box to tick keeps around it does.
const SMALL: &str = "return [...document.querySelectorAll('button, select, input, [role=button], [role=switch], summary')]
    .filter(node => node.checkVisibility() && !node.closest('label input') && node.type !== 'range')
    .map(node => { const box = node.getBoundingClientRect(), style = getComputedStyle(node), room = node.type === 'checkbox' ? 2 * parseFloat(style.marginTop) : 0;
        return [node, { width: box.width + room, height: box.height + room }]; })
    .filter(([node, box]) => box.width && (box.width < 23.5 || box.height < 23.5) && !node.closest('label'))
    .map(([node, box]) => `${node.tagName} ${node.className?.baseVal ?? node.className} ${node.ariaLabel ?? node.textContent.slice(0, 30)} ${Math.round(box.width)}x${Math.round(box.height)}`)";

/// Bounds of fields and buttons against what is behind them (WCAG 1.4.11): the least contrast there is.
const BOUNDS: &str = "const light = c => { const [r, g, b] = c.match(/[\\d.]+/g).map(Number).map(v => v / 255).map(v => v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4); return 0.2126 * r + 0.7152 * g + 0.0722 * b; };
    const behind = node => { for (let at = node; at; at = at.parentElement) { const c = getComputedStyle(at).backgroundColor; if (!/, 0\\)$/.test(c)) return c; } return 'rgb(0,0,0)'; };
    return [...document.querySelectorAll('.veil-field, .select.veil select, .button.veil:not(.bare):not([disabled])')].filter(node => node.checkVisibility())
        .map(node => { const style = getComputedStyle(node); if (style.borderTopStyle === 'none') return null;
            const [a, b] = [light(style.borderTopColor), light(behind(node.parentElement))].sort((x, y) => y - x);
            return [(a + 0.05) / (b + 0.05), node.outerHTML.slice(0, 80)]; })
        .filter(one => one && one[0] < 3).map(one => one.join(' '))";

#[tokio::test(flavor = "multi_thread")]
async fn every_page_passes_axe_and_has_large_enough_targets_and_clear_bounds() {
    let desk = Desk::new().await;
    for page in PAGES {
        desk.open(page).await;
        if page.starts_with("/shots") {
            desk.settled().await;
            desk.select("Ellipse").await;
            desk.click("#show-curves").await;
            desk.settled().await;
        }
        assert_eq!(findings(&desk).await, Vec::<String>::new(), "{page}");
        for (what, script) in [("small targets", SMALL), ("faint bounds", BOUNDS)] {
            let found = desk.run(script).await;
            assert_eq!(found, Value::Array(Vec::new()), "{what} on {page}");
        }
    }
}

#[tokio::test(flavor = "multi_thread")]
async fn dialogs_and_popups_of_the_workbench_pass_axe() {
    let desk = Desk::new().await;
    desk.open_shot("SG010").await;
    desk.select("Displace").await;
    for opener in ["#view", "#keep", "#find", "#render"] {
        desk.click(opener).await;
        desk.until("it to open", "return Boolean(document.querySelector('dialog[open], .pop'))").await;
        assert_eq!(findings(&desk).await, Vec::<String>::new(), "{opener}");
        desk.run("document.querySelector('.pop')?.remove(); document.getElementById('dialog').close()").await;
    }
}
