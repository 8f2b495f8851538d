//! The codes' JSON: one code, a list, two bytes or a pasted text.

use serde::Deserialize;
use serde_json::{Value, json};

use super::{Code, CodeBook, read_codes};
use crate::refusal::Refusal;

#[derive(Debug, Deserialize)]
#[serde(deny_unknown_fields)]
struct CodesInput {
    code: Option<String>,
    codes: Option<Vec<String>>,
    bytes: Option<Bytes>,
    text: Option<String>,
}

#[derive(Debug, Deserialize)]
#[serde(untagged)]
enum Bytes {
    Numbers(Vec<u16>),
    Hexadecimal(String),
}

/// Explains codes. Give one of `code` ("P0306"), `codes` (a list), `bytes` ([3, 6] or "0306") or `text` (as pasted).
/// One code answers with its meaning, the others with a list under `codes`.
///
/// # Errors
/// None of them or more than one given; a code or bytes that are none.
pub fn codes_json(input: &Value, book: &CodeBook) -> Result<Value, Refusal> {
    let input: CodesInput = serde_path_to_error::deserialize(input)
        .map_err(|e| Refusal::new(e.path().to_string(), e.into_inner().to_string()))?;
    let parse = |field: &str, text: &str| Code::parse(text).map_err(|reason| Refusal::new(field, reason));
    match (input.code, input.codes, input.bytes, input.text) {
        (Some(code), None, None, None) => Ok(json!(book.meaning(parse("code", &code)?))),
        (None, Some(codes), None, None) => {
            if codes.is_empty() {
                return Err(Refusal::new("codes", "is empty"));
            }
            let meanings = codes
                .iter()
                .enumerate()
                .map(|(index, code)| Ok(book.meaning(parse(&format!("codes[{index}]"), code)?)))
                .collect::<Result<Vec<_>, Refusal>>()?;
            Ok(json!({ "codes": meanings }))
        }
        (None, None, Some(bytes), None) => Ok(json!(book.meaning(Code::from_bytes(two_bytes(&bytes)?)))),
        (None, None, None, Some(text)) => {
            let reading = read_codes(&text, book);
            let statuses: Vec<Value> = reading
                .codes
                .iter()
                .zip(&reading.meanings)
                .map(|(code, meaning)| {
                    let mut value = json!(meaning);
                    value["status"] = json!(code.status);
                    value
                })
                .collect();
            Ok(json!({ "codes": statuses, "not_understood": reading.not_understood, "notes": reading.notes }))
        }
        _ => Err(Refusal::new("code", "give exactly one of code, codes, bytes or text")),
    }
}

fn two_bytes(bytes: &Bytes) -> Result<[u8; 2], Refusal> {
    let wrong = || Refusal::new("bytes", "must be two bytes: [3, 6] or \"0306\"");
    match bytes {
        Bytes::Numbers(list) => {
            let &[high, low] = list.as_slice() else { return Err(wrong()) };
            Ok([u8::try_from(high).map_err(|_| wrong())?, u8::try_from(low).map_err(|_| wrong())?])
        }
        Bytes::Hexadecimal(text) => {
            let clean: String = text.chars().filter(|c| !c.is_whitespace()).collect();
            let value = (clean.len() == 4).then(|| u16::from_str_radix(&clean, 16).ok()).flatten().ok_or_else(wrong)?;
            Ok(value.to_be_bytes())
        }
    }
}
