use lake_hour_core::decide::{
    Contest,
    tipping::{self, Driver},
};
use lake_hour_core::wants::Preset;
fn main() {
    for (file, preset) in [
        ("heron-pond", None),
        ("heron-pond", Some(Preset::WeekendAngler)),
        ("heron-pond-cart", Some(Preset::Campground)),
        ("heron-pond-canoe", None),
        ("heron-pond-barge", Some(Preset::Guide)),
    ] {
        let text = std::fs::read(format!("demo/{file}.plan.json")).unwrap();
        let mut plan = lake_hour_formats::plan::read(&text).unwrap();
        if let Some(p) = preset {
            plan.wants = p.wants();
        }
        let t = std::time::Instant::now();
        let c = Contest::of(&plan).unwrap();
        let s = c.standings();
        println!("\n{file} {preset:?} {:?}", t.elapsed());
        for (n, s) in s.iter().enumerate() {
            println!(
                "  {n} {} {:?} fails {:?} nices {} beaten {:?} total {:?} {:?}",
                plan.packs[n].name,
                s.survey.as_ref().map(|s| s.outcome),
                s.fails,
                s.nices,
                s.beaten_by,
                s.over_years(),
                s.survey.as_ref().and_then(|s| s.cost).map(|c| (
                    c.account.sets,
                    c.account.used.lasts,
                    c.per_cycle
                ))
            );
        }
        println!("  order {:?}", Contest::order(&s));
        let t = std::time::Instant::now();
        for d in Driver::ALL {
            let t = std::time::Instant::now();
            if let Some(tip) = tipping::tipping(&c, d) {
                println!(
                    "  {d:?} {:?} today {:.3} below {:?} above {:?}",
                    t.elapsed(),
                    tip.today,
                    tip.below,
                    tip.above
                );
            }
        }
        println!("  all {:?}", t.elapsed());
        for (a, b) in [
            (Driver::Wind, Driver::Hours),
            (Driver::Outings, Driver::Wind),
            (Driver::Outings, Driver::Horizon),
        ] {
            let t = std::time::Instant::now();
            let m = tipping::map(&c, a, b, 60);
            println!("  map {a:?} {b:?} {:?}", t.elapsed());
            if let Some(m) = m {
                for row in m.first.iter().step_by(6) {
                    println!(
                        "    {}",
                        row.iter()
                            .step_by(2)
                            .map(|c| c.map_or('.', |c| (b'0' + c as u8) as char))
                            .collect::<String>()
                    );
                }
            }
        }
    }
}
