//! The book: searched, read fault by fault, and what the workshop has of its own beside it.

use actix_web::{get, put, web};
use ember_core::suspects::book::{AccessItem, Book, EquipmentItem, Fault, Per, RepairCost, SignKind, Test, TestKind};
use ember_core::suspects::memory::{WorkshopCase, WorkshopOwn};
use ember_core::suspects::words::{Hit, search};
use ember_core::trail::Need;
use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};

use super::{Problem, Workshop, body, in_store};
use crate::own_book::OwnError;

/// A fault in a list.
#[derive(Debug, Serialize, ToSchema)]
pub struct FaultLine {
    pub id: String,
    pub name: String,
    pub family: String,
    pub need: Option<Need>,
    /// Cases among ten thousand, as the book has it.
    pub rate: f64,
    pub own_rate: Option<f64>,
}

/// What a fault shows, and which tests read it.
#[derive(Debug, Serialize, ToSchema)]
pub struct ShownSign {
    pub sign: String,
    pub kind: SignKind,
    /// Each state that is not the sound one, with its chance here and on a sound car.
    pub states: Vec<ShownState>,
    pub because: String,
    pub tests: Vec<TestLine>,
}

#[derive(Debug, Serialize, ToSchema)]
pub struct ShownState {
    pub state: String,
    pub chance: f64,
    pub sound: f64,
}

#[derive(Debug, Serialize, ToSchema)]
pub struct TestLine {
    pub id: String,
    pub name: String,
}

/// A fault with everything that the book says of it.
#[derive(Debug, Serialize, ToSchema)]
pub struct FaultPage {
    pub id: String,
    pub name: String,
    pub family: String,
    pub per: Per,
    pub fits: Vec<String>,
    pub need: Option<Need>,
    pub rate: f64,
    pub rate_because: String,
    pub repair: RepairCost,
    pub opens: Vec<String>,
    pub shows: Vec<ShownSign>,
    /// What the workshop has put in the place of the book's figures.
    pub own_rate: Option<f64>,
    pub own_price: Option<f64>,
}

/// An outcome of a test with what it means.
#[derive(Debug, Serialize, ToSchema)]
pub struct OutcomeLine {
    pub id: String,
    pub means: String,
    pub proves: Vec<Need>,
    pub lacks: Vec<Need>,
}

/// A row of a test's table.
#[derive(Debug, Serialize, ToSchema)]
pub struct TableRow {
    pub state: String,
    pub chances: Vec<f64>,
}

/// A test with everything that the book says of it.
#[derive(Debug, Serialize, ToSchema)]
pub struct TestPage {
    pub id: String,
    pub name: String,
    pub kind: TestKind,
    pub per: Per,
    pub fits: Vec<String>,
    pub how: String,
    pub minutes: f64,
    pub minutes_because: String,
    pub own_minutes: Option<f64>,
    pub money: f64,
    pub tools: Vec<String>,
    pub opens: Vec<String>,
    pub people: u8,
    pub cautions: Vec<String>,
    pub outcomes: Vec<OutcomeLine>,
    pub table: Vec<TableRow>,
    pub table_because: String,
    /// Faults that show the sign which it reads.
    pub faults: Vec<FaultLine>,
}

/// A name that can be chosen, with what it means.
#[derive(Debug, Serialize, ToSchema)]
pub struct Choice {
    pub id: String,
    pub name: String,
}

/// The book as a list, with the words for a complaint.
#[derive(Debug, Serialize, ToSchema)]
pub struct BookList {
    pub faults: Vec<FaultLine>,
    pub tests: Vec<TestLine>,
    pub symptoms: Vec<Choice>,
    pub circumstances: Vec<Choice>,
    pub history: Vec<Choice>,
    pub equipment: Vec<EquipmentItem>,
    pub access: Vec<AccessItem>,
}

/// A case that a closed and proven job has taught.
#[derive(Debug, Serialize, ToSchema)]
pub struct LearntCase {
    pub job: i64,
    pub fleet_no: String,
    pub vehicle: String,
    pub fault: String,
    pub name: String,
    /// Whether it counts; the workshop can take it back.
    pub counts: bool,
}

/// What a fault weighs with and without what the workshop has of its own.
#[derive(Debug, Serialize, ToSchema)]
pub struct BentRate {
    pub fault: String,
    pub name: String,
    /// Its share among all faults of the book, in percent, before and after.
    pub book_pct: f64,
    pub here_pct: f64,
}

/// What the workshop has of its own, and what its closed jobs have taught.
#[derive(Debug, Serialize, ToSchema)]
pub struct OwnPage {
    pub own: WorkshopOwn,
    /// Why the workshop's file is not used; then the book alone counts and nothing can be changed.
    pub broken: Option<String>,
    pub labour_per_hour: f64,
    pub learnt: Vec<LearntCase>,
    /// What all that does to the rates.
    pub bent: Vec<BentRate>,
}

#[derive(Debug, Deserialize, IntoParams)]
pub struct Query {
    /// The trade's words: `weak spark cylinder 3`.
    q: String,
}

/// Finds tests with their outcomes, symptoms and faults by the trade's words.
#[utoipa::path(get, path = "/api/knowledge/search", params(Query), responses((status = 200, body = Vec<Hit>)), operation_id = "knowledge_search")]
#[get("/api/knowledge/search")]
pub async fn find(workshop: web::Data<Workshop>, query: web::Query<Query>) -> web::Json<Vec<Hit>> {
    web::Json(search(&workshop.knowledge.book, &query.q))
}

fn fault_line(fault: &Fault, own: &WorkshopOwn) -> FaultLine {
    FaultLine {
        id: fault.id.clone(),
        name: fault.name.clone(),
        family: fault.family.clone(),
        need: fault.need,
        rate: fault.rate,
        own_rate: own.rates.get(&fault.id).copied(),
    }
}

fn test_line(test: &Test) -> TestLine {
    TestLine { id: test.id.clone(), name: test.name.clone() }
}

fn of_kind(book: &Book, kind: SignKind) -> Vec<Choice> {
    let list = book.tests.iter().filter(|test| book.signs[test.sign].kind == kind);
    list.map(|test| Choice { id: test.id.clone(), name: test.name.clone() }).collect()
}

/// All faults, tests, symptoms, circumstances and histories of the book by name.
#[utoipa::path(get, path = "/api/knowledge", responses((status = 200, body = BookList)), operation_id = "knowledge_list")]
#[get("/api/knowledge")]
pub async fn list_book(workshop: web::Data<Workshop>) -> web::Json<BookList> {
    let book = &workshop.knowledge.book;
    let own = workshop.own.now().own;
    web::Json(BookList {
        faults: book.faults.iter().map(|fault| fault_line(fault, &own)).collect(),
        tests: book.tests.iter().filter(|test| book.signs[test.sign].kind == SignKind::Found).map(test_line).collect(),
        symptoms: of_kind(book, SignKind::Symptom),
        circumstances: of_kind(book, SignKind::Circumstance),
        history: of_kind(book, SignKind::History),
        equipment: book.equipment.values().cloned().collect(),
        access: book.access.values().cloned().collect(),
    })
}

/// One fault.
#[utoipa::path(get, path = "/api/knowledge/faults/{id}", params(("id" = String, Path)),
    responses((status = 200, body = FaultPage), (status = 404, body = Problem)), operation_id = "knowledge_fault")]
#[get("/api/knowledge/faults/{id}")]
pub async fn read_fault(workshop: web::Data<Workshop>, id: web::Path<String>) -> Result<web::Json<FaultPage>, Problem> {
    let book = &workshop.knowledge.book;
    let own = workshop.own.now().own;
    let fault = book.fault(&id).ok_or_else(|| Problem::not_found(format!("the book has no fault {id}")))?;
    let shows = fault
        .shows
        .iter()
        .map(|shown| {
            let sign = &book.signs[shown.sign];
            let states = sign.states.iter().zip(shown.chance.iter().zip(&sign.sound)).skip(1);
            ShownSign {
                sign: sign.name.clone(),
                kind: sign.kind,
                states: states
                    .map(|(state, (chance, sound))| ShownState { state: state.clone(), chance: *chance, sound: *sound })
                    .collect(),
                because: shown.because.clone(),
                tests: match sign.kind {
                    SignKind::Found => book.tests.iter().filter(|t| t.sign == shown.sign).map(test_line).collect(),
                    _ => Vec::new(),
                },
            }
        })
        .collect();
    Ok(web::Json(FaultPage {
        id: fault.id.clone(),
        name: fault.name.clone(),
        family: fault.family.clone(),
        per: fault.per,
        fits: fault.fits.iter().map(ToString::to_string).collect(),
        need: fault.need,
        rate: fault.rate,
        rate_because: fault.rate_because.clone(),
        repair: fault.repair.clone(),
        opens: opened(book, &fault.opens),
        shows,
        own_rate: own.rates.get(&fault.id).copied(),
        own_price: own.prices.get(&fault.id).copied(),
    }))
}

fn opened(book: &Book, names: &[String]) -> Vec<String> {
    names.iter().filter_map(|name| book.access.get(name).map(|item| item.name.clone())).collect()
}

/// One test.
#[utoipa::path(get, path = "/api/knowledge/tests/{id}", params(("id" = String, Path)),
    responses((status = 200, body = TestPage), (status = 404, body = Problem)), operation_id = "knowledge_test")]
#[get("/api/knowledge/tests/{id}")]
pub async fn read_test(workshop: web::Data<Workshop>, id: web::Path<String>) -> Result<web::Json<TestPage>, Problem> {
    let book = &workshop.knowledge.book;
    let own = workshop.own.now().own;
    let test = book.test(&id).ok_or_else(|| Problem::not_found(format!("the book has no test {id}")))?;
    let shown_by = book.faults.iter().filter(|fault| fault.shows.iter().any(|shown| shown.sign == test.sign));
    Ok(web::Json(TestPage {
        id: test.id.clone(),
        name: test.name.clone(),
        kind: test.kind,
        per: test.per,
        fits: test.fits.iter().map(ToString::to_string).collect(),
        how: test.how.clone(),
        minutes: test.minutes,
        minutes_because: test.because.clone(),
        own_minutes: own.minutes.get(&test.id).copied(),
        money: test.money,
        tools: test.tools.clone(),
        opens: opened(book, &test.opens),
        people: test.people,
        cautions: test
            .cautions
            .iter()
            .filter_map(|name| workshop.knowledge.cautions.get(name).map(|caution| caution.text.clone()))
            .collect(),
        outcomes: test
            .outcomes
            .iter()
            .map(|one| OutcomeLine {
                id: one.id.clone(),
                means: one.means.clone(),
                proves: one.proves.clone(),
                lacks: one.lacks.clone(),
            })
            .collect(),
        table: book.signs[test.sign]
            .states
            .iter()
            .zip(&test.table)
            .map(|(state, chances)| TableRow { state: state.clone(), chances: chances.clone() })
            .collect(),
        table_because: test.table_because.clone(),
        faults: shown_by.map(|fault| fault_line(fault, &own)).collect(),
    }))
}

/// What closed and proven jobs have taught, whether it counts or not.
pub(super) async fn learnt(workshop: &web::Data<Workshop>) -> Result<Vec<LearntCase>, Problem> {
    let unlearnt = workshop.own.now().own.unlearnt_jobs;
    let knowledge = workshop.knowledge;
    let proven = in_store(workshop, |store| store.proven_jobs()).await?;
    Ok(proven
        .into_iter()
        .filter_map(|one| {
            let name = knowledge.book.fault(&one.fault)?.name.clone();
            Some(LearntCase {
                job: one.job,
                fleet_no: one.fleet_no,
                vehicle: one.vehicle,
                fault: one.fault,
                name,
                counts: !unlearnt.contains(&one.job),
            })
        })
        .collect())
}

/// What the workshop knows, with what its other jobs have taught.
pub(super) async fn own_for(workshop: &web::Data<Workshop>, job: Option<i64>) -> Result<WorkshopOwn, Problem> {
    Ok(with_learnt(workshop, &learnt(workshop).await?, job))
}

/// As [`own_for`], where what the jobs have taught is known already.
pub(super) fn with_learnt(workshop: &Workshop, cases: &[LearntCase], job: Option<i64>) -> WorkshopOwn {
    let mut own = workshop.own.now().own;
    own.usual.extend(cases.iter().filter(|case| case.counts && Some(case.job) != job).map(|case| WorkshopCase {
        fault: case.fault.clone(),
        cases: 1.0,
        vehicle: Some(case.vehicle.clone()),
        because: format!("job {} of {}, closed and proven", case.job, case.fleet_no),
    }));
    own
}

async fn page(workshop: &web::Data<Workshop>) -> Result<OwnPage, Problem> {
    super::cards::freshen(workshop).await?;
    let state = workshop.own.now();
    let book = &workshop.knowledge.book;
    let all = own_for(workshop, None).await?;
    let book_total: f64 = book.faults.iter().map(|fault| fault.rate).sum();
    let rate = |fault: &Fault| all.rates.get(&fault.id).copied().unwrap_or(fault.rate);
    let here_total: f64 = book.faults.iter().map(rate).sum();
    let cases = |id: &str| all.usual.iter().filter(|case| case.fault == id).map(|case| case.cases).sum::<f64>();
    let counted: f64 = all.usual.iter().map(|case| case.cases).sum();
    let strength = book.figures.history.value;
    let touched = |fault: &&Fault| all.rates.contains_key(&fault.id) || cases(&fault.id) > 0.0;
    let bent = book
        .faults
        .iter()
        .filter(touched)
        .map(|fault| BentRate {
            fault: fault.id.clone(),
            name: fault.name.clone(),
            book_pct: 100.0 * fault.rate / book_total,
            here_pct: 100.0 * (rate(fault) / here_total * strength + cases(&fault.id)) / (strength + counted),
        })
        .collect();
    Ok(OwnPage {
        labour_per_hour: state.own.labour_per_hour.unwrap_or(book.figures.labour.value),
        own: state.own,
        broken: state.broken,
        learnt: learnt(workshop).await?,
        bent,
    })
}

/// What the workshop knows beside the book.
#[utoipa::path(get, path = "/api/workshop", responses((status = 200, body = OwnPage)), operation_id = "workshop_show")]
#[get("/api/workshop")]
pub async fn show(workshop: web::Data<Workshop>) -> Result<web::Json<OwnPage>, Problem> {
    Ok(web::Json(page(&workshop).await?))
}

/// Puts what the workshop knows beside the book.
#[utoipa::path(put, path = "/api/workshop", request_body = WorkshopOwn,
    responses((status = 200, body = OwnPage), (status = 409, body = Problem), (status = 422, body = Problem)), operation_id = "workshop_put")]
#[put("/api/workshop")]
pub async fn change(workshop: web::Data<Workshop>, bytes: web::Bytes) -> Result<web::Json<OwnPage>, Problem> {
    let own: WorkshopOwn = body(&bytes)?;
    workshop.own.put(own, workshop.knowledge).map_err(|error| match error {
        OwnError::Refused(refusal) => Problem::from(refusal),
        OwnError::Broken(reason) => Problem::conflict("broken", "The workshop's own file is broken", reason),
        OwnError::Disk(reason) => Problem::internal(reason),
    })?;
    Ok(web::Json(page(&workshop).await?))
}
