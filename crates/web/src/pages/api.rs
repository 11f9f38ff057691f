//! The same documents for other programs: a plan in, a result, proposals or tipping points out, as strict about bad input as
//! `lake-hour evaluate`. Described as OpenAPI 3.1, and on a page.

use crate::frame::App;
use crate::frame::error::PageError;
use crate::frame::head::Head;
use crate::frame::heavy::{CalledOff, Work};
use crate::frame::look::Look;
use crate::frame::weighed;
use askama::Template;
use axum::Router;
use axum::body::Bytes;
use axum::extract::rejection::BytesRejection;
use axum::extract::{DefaultBodyLimit, State};
use axum::http::{HeaderMap, StatusCode, header};
use axum::response::{Html, IntoResponse, Response};
use axum::routing::{get, post};
use lake_hour_core::decide::Contest;
use lake_hour_core::plan::Plan;
use lake_hour_formats::{Faults, decision, plan, result, schema};
use rayon::iter::{IntoParallelRefIterator, ParallelIterator};
use serde::Serialize;
use utoipa::openapi::path::{HttpMethod, OperationBuilder, PathItemBuilder, PathsBuilder};
use utoipa::openapi::request_body::RequestBodyBuilder;
use utoipa::openapi::{
    ContentBuilder, InfoBuilder, OpenApi, OpenApiBuilder, Ref, Required, ResponseBuilder,
};

/// Largest plan taken. [bytes]
const LARGEST: usize = 2 << 20;
/// Most packs that are weighed against each other.
const MOST_WEIGHED: usize = 200;

pub(crate) fn routes() -> Router<App> {
    let taking = |router: Router<App>| router.layer(DefaultBodyLimit::max(LARGEST));
    Router::new().route("/api", get(page)).route("/api/openapi.json", get(described)).merge(taking(
        Router::new()
            .route("/api/evaluate", post(evaluate))
            .route("/api/proposals", post(proposals))
            .route("/api/tipping", post(tipping)),
    ))
}

/// What is wrong with a document: where, and what is allowed.
#[derive(Serialize)]
struct FaultsDocument {
    faults: Vec<FaultDocument>,
}

#[derive(Serialize)]
struct FaultDocument {
    at: String,
    says: String,
}

fn refused(status: StatusCode, faults: Vec<(String, String)>) -> Response {
    let faults = faults.into_iter().map(|(at, says)| FaultDocument { at, says }).collect();
    (status, axum::Json(FaultsDocument { faults })).into_response()
}

fn faulty(faults: Faults) -> Response {
    let all = faults.0.into_iter().map(|f| (f.at, f.says));
    refused(StatusCode::UNPROCESSABLE_ENTITY, all.collect())
}

/// A body as it came, or why it did not.
type Sent = Result<Bytes, BytesRejection>;

/// The plan of a request, or what is wrong with it.
fn asked(headers: &HeaderMap, body: Sent) -> Result<Plan, Box<Response>> {
    let bad =
        |status, says: &str| Box::new(refused(status, vec![(String::new(), says.to_owned())]));
    let kind = headers.get(header::CONTENT_TYPE).and_then(|v| v.to_str().ok()).unwrap_or_default();
    let plain = kind.split(';').next().unwrap_or_default().trim();
    // A form of another site can send no JSON without asking first.
    if !plain.eq_ignore_ascii_case("application/json") {
        return Err(bad(StatusCode::UNSUPPORTED_MEDIA_TYPE, "send the plan as application/json"));
    }
    let body = body.map_err(|why| match why.status() {
        StatusCode::PAYLOAD_TOO_LARGE => bad(
            StatusCode::PAYLOAD_TOO_LARGE,
            "more than 2 MB; a plan of 200 packs has some 300 kB",
        ),
        status => bad(status, "the plan broke off on the way; send it whole"),
    })?;
    plan::read(&body).map_err(|faults| Box::new(faulty(faults)))
}

/// The answer of a work on a plan; a plan that no pack can be judged on says why.
async fn answer<D: Serialize + Send + 'static>(
    app: App,
    headers: HeaderMap,
    body: Sent,
    most: usize,
    work: impl FnOnce(&Plan, &Work) -> Result<Result<D, String>, CalledOff> + Send + 'static,
) -> Result<Response, PageError> {
    let plan = match asked(&headers, body) {
        Ok(plan) => plan,
        Err(refused) => return Ok(*refused),
    };
    let fault = |at: &str, says: String| {
        refused(StatusCode::UNPROCESSABLE_ENTITY, vec![(at.to_owned(), says)])
    };
    if plan.packs.len() > most {
        let says = format!("{} packs; at most {most} are weighed at once", plan.packs.len());
        return Ok(fault("packs", says));
    }
    match app.heavy.does(move |on| work(&plan, on)).await {
        Ok(Ok(document)) => Ok(axum::Json(document).into_response()),
        Ok(Err(says)) => Ok(fault("day.stretches", says)),
        Err(PageError::TooLong) => {
            let says = "it takes too long, or too much is asked for at once: send fewer packs, or try again in a moment";
            Ok(refused(StatusCode::SERVICE_UNAVAILABLE, vec![(String::new(), says.to_owned())]))
        }
        Err(error) => Err(error),
    }
}

async fn evaluate(
    State(app): State<App>,
    headers: HeaderMap,
    body: Sent,
) -> Result<Response, PageError> {
    answer(app, headers, body, usize::MAX, |plan, on| {
        let judge = match plan.judge() {
            Ok(judge) => judge,
            Err(e) => return Ok(Err(e.to_string())),
        };
        let plan = &*plan.with_parts_counted();
        let each = plan.packs.par_iter().map(|pack| {
            on.goes_on()?;
            Ok(judge.in_full(pack))
        });
        let all: Vec<_> = on.shared(|| each.collect::<Result<_, CalledOff>>())?;
        Ok(Ok(result::document(plan, &all, false)))
    })
    .await
}

async fn proposals(
    State(app): State<App>,
    headers: HeaderMap,
    body: Sent,
) -> Result<Response, PageError> {
    answer(app, headers, body, MOST_WEIGHED, |plan, on| {
        let judge = match plan.judge() {
            Ok(judge) => judge,
            Err(e) => return Ok(Err(e.to_string())),
        };
        let mut batteries: Vec<_> = Vec::new();
        for pack in &plan.packs {
            if !batteries.contains(&&pack.battery) {
                batteries.push(&pack.battery);
            }
        }
        let each = batteries.par_iter().map(|battery| {
            on.goes_on()?;
            Ok((battery.name.as_str(), judge.proposals(plan, battery)))
        });
        let all: Vec<_> = on.shared(|| each.collect::<Result<_, CalledOff>>())?;
        let all =
            all.into_iter().flat_map(|(name, found)| found.into_iter().map(move |p| (name, p)));
        Ok(Ok(decision::proposals(all)))
    })
    .await
}

async fn tipping(
    State(app): State<App>,
    headers: HeaderMap,
    body: Sent,
) -> Result<Response, PageError> {
    answer(app, headers, body, MOST_WEIGHED, |plan, on| {
        let contest = match Contest::of(plan) {
            Ok(contest) => contest,
            Err(e) => return Ok(Err(e.to_string())),
        };
        let standings = contest.standings();
        let (order, first) = (Contest::order(&standings), Contest::first(&standings));
        let tips = weighed::tips(&contest, on)?;
        Ok(Ok(decision::tipping(plan, &standings, order, first, &tips)))
    })
    .await
}

/// What each address does, for the description and the page.
const OPERATIONS: [(&str, &str, &str, &str); 3] = [
    (
        "/api/evaluate",
        "What a plan comes to, as lake-hour evaluate has it",
        "ResultDocument",
        "The result, pack by pack",
    ),
    (
        "/api/proposals",
        "Every way of wiring the batteries of a plan's packs, judged on its day",
        "ProposalsDocument",
        "The proposals, battery by battery",
    ),
    (
        "/api/tipping",
        "Which pack comes first by what is wanted, and the value of each thing at which another one does",
        "TippingDocument",
        "The standings and the tipping points",
    ),
];

/// The description of all of it, but for the documents.
fn description() -> OpenApi {
    let json = |name: &str| ContentBuilder::new().schema(Some(Ref::from_schema_name(name))).build();
    let mut paths = PathsBuilder::new();
    for (path, summary, answers, says) in OPERATIONS {
        let body = RequestBodyBuilder::new()
            .description(Some(
                "A plan, as the Board saves it and docs/formats/plan.schema.json tells it",
            ))
            .required(Some(Required::True))
            .content("application/json", json("PlanDocument"))
            .build();
        let good =
            ResponseBuilder::new().description(says).content("application/json", json(answers));
        let bad = |words: &str| {
            ResponseBuilder::new()
                .description(words)
                .content("application/json", json("Faults"))
                .build()
        };
        let operation = OperationBuilder::new()
            .operation_id(path.rsplit('/').next())
            .summary(Some(summary))
            .request_body(Some(body))
            .response("200", good.build())
            .response("413", bad("More than 2 MB"))
            .response("415", bad("Not sent as application/json"))
            .response("503", bad("Too much is asked for at once, or it takes too long: try again"))
            .response("422", bad("What is wrong with the plan: where, and what is allowed"));
        paths = paths.path(
            path,
            PathItemBuilder::new().operation(HttpMethod::Post, operation.build()).build(),
        );
    }
    let info = InfoBuilder::new()
        .title("Lake Hour")
        .description(Some("Which battery gets you home: plans in, results, proposals and tipping points out. Units are in the names; fractions are 0 to 1."))
        .version(env!("CARGO_PKG_VERSION"))
        .build();
    OpenApiBuilder::new().info(info).paths(paths.build()).build()
}

/// The same with the documents' own schemas, which are JSON Schema of the year that OpenAPI 3.1 means.
fn with_schemas(api: &OpenApi) -> Result<serde_json::Value, PageError> {
    let mut all = schema::components();
    all.insert(
        "Faults".to_owned(),
        serde_json::json!({
            "type": "object", "required": ["faults"],
            "properties": {"faults": {"type": "array", "items": {
                "type": "object", "required": ["at", "says"],
                "properties": {"at": {"type": "string"}, "says": {"type": "string"}}
            }}}
        }),
    );
    let mut json = serde_json::to_value(api).map_err(|_| PageError::Broken)?;
    json["components"] = serde_json::json!({ "schemas": all });
    Ok(json)
}

async fn described() -> Result<Response, PageError> {
    let json = with_schemas(&description())?;
    let json = serde_json::to_string_pretty(&json).map_err(|_| PageError::Broken)?;
    Ok(([(header::CONTENT_TYPE, "application/json")], json).into_response())
}

#[derive(Template)]
#[template(path = "api.html")]
struct ApiPage {
    head: Head,
    operations: [(&'static str, &'static str, &'static str, &'static str); 3],
}

async fn page(headers: HeaderMap) -> Result<Response, PageError> {
    let head = Head::plain("For other programs", Look::of(&headers));
    let page = ApiPage { head, operations: OPERATIONS };
    Ok(Html(page.render().map_err(|_| PageError::Broken)?).into_response())
}
