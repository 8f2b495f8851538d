//! What to buy: the part, the pair or the set; from whom; or the part itself repaired.

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::knowledge::Knowledge;
use crate::refusal::{Refusal, above_zero, whole_count};
use crate::vehicle::line;

/// Prior figures of deciding; `knowledge/repair.toml`.
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct RepairKnowledge {
    pub sources: BTreeMap<Source, SourceKnowledge>,
    /// The ways in which a part fails, with their words.
    pub ways: BTreeMap<String, String>,
    pub together: Together,
    pub wrong_guess: WrongGuess,
    pub close_call: CloseCall,
    pub comeback: Comeback,
    pub extras: Vec<Extra>,
}

#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct SourceKnowledge {
    pub name: String,
    /// How many came back of how many fitted, as the figure to start from.
    pub comeback: (f64, f64),
    /// Life against a new original.
    pub life: f64,
    /// The ways of failing that it cures; none named: all.
    #[serde(default)]
    pub mends: Vec<String>,
    pub because: String,
}

#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Together {
    pub within: f64,
    pub ages: Vec<String>,
    pub because: String,
}

#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct WrongGuess {
    pub returned: f64,
    pub because: String,
}

#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct CloseCall {
    pub share: f64,
    pub because: String,
}

#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Comeback {
    pub days: f64,
    pub because: String,
}

#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Extra {
    pub part: String,
    pub what: String,
    pub per: Per,
    pub renew: bool,
    pub because: String,
}

#[derive(Debug, Clone, Copy, PartialEq, Eq, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum Per {
    Part,
    Once,
}

/// Where a part comes from.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Source {
    Original,
    OtherMake,
    Rebuilt,
    Kit,
    /// The part itself is repaired.
    Component,
}

/// How many are renewed.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Scope {
    One,
    Pair,
    Set,
}

/// What somebody offers.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Offer {
    /// What it is a part for, as the workshop calls it: `coil`, `rail pressure valve`.
    pub part: String,
    pub source: Source,
    #[serde(default)]
    pub supplier: String,
    /// Money for one unit as it is sold.
    pub price: f64,
    /// How many parts the smallest unit holds.
    #[serde(default = "one")]
    pub sold_by: f64,
    /// Money that comes back with the old part.
    #[serde(default)]
    pub deposit: f64,
    /// Days until it is here.
    #[serde(default)]
    pub days: f64,
}

fn one() -> f64 {
    1.0
}

/// How a supplier's parts did here.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct SupplierRecord {
    pub supplier: String,
    pub fitted: f64,
    pub came_back: f64,
}

#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct DecideInput {
    pub part: String,
    /// How likely it is that this part is the fault, 0 to 1.
    pub probability: f64,
    /// How many like it the engine has, this one included.
    #[serde(default = "one")]
    pub alike: f64,
    /// The way it failed, a name of `knowledge/repair.toml`.
    #[serde(default = "unknown_way")]
    pub way: String,
    /// Minutes to renew one, and further minutes for each other one while everything is open.
    pub minutes: f64,
    #[serde(default)]
    pub minutes_each_more: f64,
    #[serde(default = "default_labour")]
    pub labour_per_hour: f64,
    /// What a day off the road costs.
    #[serde(default)]
    pub day_costs: f64,
    /// Whether the old part is handed in, so that the deposit comes back.
    #[serde(default = "yes")]
    pub hands_in_old: bool,
    pub offers: Vec<Offer>,
    #[serde(default)]
    pub suppliers: Vec<SupplierRecord>,
    /// What has been noted as never used again while taking off, for the order list.
    #[serde(default)]
    pub renew: Vec<String>,
}

fn unknown_way() -> String {
    "unknown".into()
}

fn default_labour() -> f64 {
    Knowledge::built_in().book.figures.labour.value
}

fn yes() -> bool {
    true
}

/// A share of what an option costs.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct CostShare {
    pub what: String,
    pub money: f64,
}

#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct DecideOption {
    pub source: Source,
    pub scope: Scope,
    pub supplier: String,
    /// `new, other make: the set of 4`.
    pub name: String,
    /// What is paid over the counter, deposit included.
    pub outlay: f64,
    /// How many are bought; more than are needed where they are sold in packs.
    pub bought: f64,
    /// What is lost if it is not this part.
    pub wrong_guess_loses: f64,
    /// What it costs in the end, by expectation.
    pub expected: f64,
    pub shares: Vec<CostShare>,
    pub comeback_pct: f64,
    pub days: f64,
}

#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct NotOffered {
    pub name: String,
    pub why: String,
}

/// A line of the order, before anything is taken apart.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct OrderLine {
    pub what: String,
    pub count: f64,
    #[serde(default)]
    pub supplier: String,
    #[serde(default)]
    pub because: String,
}

#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct DecideResult {
    /// The cheapest by expectation first.
    pub options: Vec<DecideOption>,
    pub not_offered: Vec<NotOffered>,
    /// By how much the first wins over the second; null with a single one.
    pub wins_by: Option<f64>,
    /// Whether that is more than the figures are known.
    pub decided: bool,
    pub order: Vec<OrderLine>,
    pub says: String,
}

/// Weighs the offers against each other.
///
/// Expected cost = parts (whole packs) + deposit where the old part is kept + labour + waiting days + the chance of a
/// comeback × (labour again + a day) + the earlier end of a shorter life + what the sisters left in place will cost when
/// they follow + (1 − p) × (the work that goes on − what goes back for its money). The chance of a comeback of a supplier with n fitted and k come back is
/// (a + k) / (b + n), with a of b from the knowledge.
///
/// # Errors
/// A probability outside 0 to 1; money, minutes or days below nought; parts that are no whole number; a way of failing that
/// is not known; no offer.
pub fn decide(input: &DecideInput, knowledge: &Knowledge) -> Result<DecideResult, Refusal> {
    let rules = &knowledge.repair;
    checked(input, rules)?;
    let (mut options, mut not_offered) = (Vec::new(), Vec::new());
    for offer in &input.offers {
        let Some(source) = rules.sources.get(&offer.source) else { continue };
        let by = if offer.supplier.is_empty() { String::new() } else { format!(" ({})", offer.supplier) };
        if !source.mends.is_empty() && input.way != "unknown" && !source.mends.contains(&input.way) {
            let way = rules.ways.get(&input.way).map_or(input.way.as_str(), String::as_str);
            not_offered.push(NotOffered {
                name: format!("{}{by}", source.name),
                why: format!("It does not cure a part that is {way}. {}", source.because),
            });
            continue;
        }
        let scopes: &[(Scope, f64)] = match input.alike as u32 {
            0 | 1 => &[(Scope::One, 1.0)],
            2 => &[(Scope::One, 1.0), (Scope::Pair, 2.0)],
            _ => &[(Scope::One, 1.0), (Scope::Pair, 2.0), (Scope::Set, input.alike)],
        };
        for &(scope, count) in scopes {
            options.push(option(input, offer, source, scope, count, rules, &by));
        }
    }
    options.sort_by(|a, b| a.expected.total_cmp(&b.expected).then(a.name.cmp(&b.name)));
    let wins_by = options.get(1).map(|second| second.expected - options[0].expected);
    let decided = match (options.first(), wins_by) {
        (Some(first), Some(by)) => by > rules.close_call.share * first.expected,
        (first, None) => first.is_some(),
        _ => false,
    };
    let order = options.first().map_or_else(Vec::new, |best| order(input, best, rules));
    let says = match (options.as_slice(), wins_by) {
        ([], _) => "None of these cures the way it failed.".into(),
        ([only], _) => {
            format!("{}: {:.0} by expectation. There is nothing to weigh it against.", only.name, only.expected)
        }
        ([first, second, ..], Some(by)) if decided => {
            format!("{} costs {:.0} by expectation, {by:.0} less than {}.", first.name, first.expected, second.name)
        }
        ([first, second, ..], _) => format!(
            "{} and {} cost the same within what is known ({:.0} and {:.0}). Take what is here sooner.",
            first.name, second.name, first.expected, second.expected
        ),
    };
    Ok(DecideResult { options, not_offered, wins_by, decided, order, says })
}

fn checked(input: &DecideInput, rules: &RepairKnowledge) -> Result<(), Refusal> {
    line("part", &input.part)?;
    let p = input.probability;
    if !(0.0..=1.0).contains(&p) {
        return Err(Refusal::new("probability", format!("must lie between 0 and 1, and this is {p}")));
    }
    above_zero("alike", whole_count("alike", input.alike)?)?;
    if !rules.ways.contains_key(&input.way) {
        let known: Vec<&str> = rules.ways.keys().map(String::as_str).collect();
        return Err(Refusal::new(
            "way",
            format!("{} is no way of failing known here: {}", input.way, known.join(", ")),
        ));
    }
    let amounts = [
        ("minutes", input.minutes),
        ("minutes_each_more", input.minutes_each_more),
        ("labour_per_hour", input.labour_per_hour),
        ("day_costs", input.day_costs),
    ];
    for (name, value) in amounts {
        not_below_nought(name, value)?;
    }
    if input.offers.is_empty() {
        return Err(Refusal::new("offers", "is empty: what can be had?"));
    }
    for (index, offer) in input.offers.iter().enumerate() {
        check_offer(offer).map_err(|refusal| refusal.within(&format!("offers[{index}]")))?;
    }
    for (index, record) in input.suppliers.iter().enumerate() {
        let field = format!("suppliers[{index}].came_back");
        let (fitted, back) = (whole_count(&field, record.fitted)?, whole_count(&field, record.came_back)?);
        if back > fitted {
            return Err(Refusal::new(field, format!("{back} of {fitted} cannot have come back")));
        }
    }
    Ok(())
}

/// Checks an offer by itself, as a workshop keeps it.
///
/// # Errors
/// A part without a name; money or days below nought; a pack of nothing.
pub fn check_offer(offer: &Offer) -> Result<(), Refusal> {
    line("part", &offer.part)?;
    not_below_nought("price", offer.price)?;
    not_below_nought("deposit", offer.deposit)?;
    not_below_nought("days", offer.days)?;
    above_zero("sold_by", whole_count("sold_by", offer.sold_by)?)?;
    Ok(())
}

fn not_below_nought(field: &str, value: f64) -> Result<(), Refusal> {
    if !value.is_finite() || value < 0.0 {
        return Err(Refusal::new(field, format!("must be nought or more, and this is {value}")));
    }
    Ok(())
}

fn option(
    input: &DecideInput,
    offer: &Offer,
    source: &SourceKnowledge,
    scope: Scope,
    count: f64,
    rules: &RepairKnowledge,
    by: &str,
) -> DecideOption {
    let per_minute = input.labour_per_hour / 60.0;
    let packs = (count / offer.sold_by).ceil();
    let parts = packs * offer.price;
    let deposit = packs * offer.deposit;
    let labour = (input.minutes + (count - 1.0) * input.minutes_each_more) * per_minute;
    let known = input.suppliers.iter().find(|record| !offer.supplier.is_empty() && record.supplier == offer.supplier);
    let (a, b) = source.comeback;
    let (back, fitted) = known.map_or((0.0, 0.0), |record| (record.came_back, record.fitted));
    let comeback = (a + back) / (b + fitted);
    let again = input.minutes * per_minute + rules.comeback.days * input.day_costs;
    // Each part fitted can come back on its own.
    let any_back = 1.0 - (1.0 - comeback).powf(count);
    let ages = rules.together.ages.contains(&input.way);
    let sisters = if ages { (input.alike - count).max(0.0) * rules.together.within } else { 0.0 };
    let each = offer.price / offer.sold_by;
    let wrong = 1.0 - input.probability;
    // Work on the part itself does not go back for its money.
    let refund = if offer.source == Source::Component { 0.0 } else { rules.wrong_guess.returned * parts };
    let shares: Vec<CostShare> = [
        (format!("{packs:.0} × {:.2}", offer.price), parts),
        ("deposit that does not come back".into(), if input.hands_in_old { 0.0 } else { deposit }),
        ("labour".into(), labour),
        (format!("{} days of waiting", offer.days), offer.days * input.day_costs),
        (format!("{:.1} % chance of a comeback", 100.0 * any_back), any_back * again),
        ("the shorter life".into(), (1.0 / source.life - 1.0) * (parts + labour)),
        (format!("{sisters:.2} sisters that follow"), sisters * (again + each)),
        (format!("{:.0} % chance that it is not this part", 100.0 * wrong), wrong * again),
        ("what would go back for its money then".into(), -wrong * refund),
    ]
    .into_iter()
    .filter(|(_, money)| *money != 0.0)
    .map(|(what, money)| CostShare { what, money })
    .collect();
    let expected = shares.iter().map(|share| share.money).sum();
    let how_many = match scope {
        Scope::One => "one".to_owned(),
        Scope::Pair => "the pair".to_owned(),
        Scope::Set => format!("the set of {count:.0}"),
    };
    DecideOption {
        source: offer.source,
        scope,
        supplier: offer.supplier.clone(),
        name: format!("{}{by}: {how_many}", source.name),
        outlay: parts + deposit,
        bought: packs * offer.sold_by,
        wrong_guess_loses: parts + labour - refund,
        expected,
        shares,
        comeback_pct: 100.0 * any_back,
        days: offer.days,
    }
}

/// What is ordered before teardown: the part, what goes with it, and what was noted as never used again.
fn order(input: &DecideInput, best: &DecideOption, rules: &RepairKnowledge) -> Vec<OrderLine> {
    let mut list = vec![OrderLine {
        what: input.part.clone(),
        count: best.bought,
        supplier: best.supplier.clone(),
        because: best.name.clone(),
    }];
    let count = match best.scope {
        Scope::One => 1.0,
        Scope::Pair => 2.0,
        Scope::Set => input.alike,
    };
    let part = input.part.to_lowercase();
    for extra in rules.extras.iter().filter(|extra| part.contains(&extra.part)) {
        list.push(OrderLine {
            what: extra.what.clone(),
            count: if extra.per == Per::Part { count } else { 1.0 },
            supplier: String::new(),
            because: extra.because.clone(),
        });
    }
    for renew in &input.renew {
        if !list.iter().any(|line| line.what == *renew) {
            list.push(OrderLine {
                what: renew.clone(),
                count: 1.0,
                supplier: String::new(),
                because: "Noted on the bench-out list as never used again.".into(),
            });
        }
    }
    list
}
