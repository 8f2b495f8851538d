//! Trouble codes: their structure, their bytes, what they say and what they cannot tell.

mod book;
mod door;
mod pasted;

use std::fmt;

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

pub use book::{CodeBook, CodeFile, CodeMeaning};
pub use door::codes_json;
pub use pasted::{CodeReading, CodeStatus, ReadCode, read_codes};

/// A trouble code as its two bytes: two bits of letter, two of the first digit, three hexadecimal digits
/// (ISO 15031-6).
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct Code(u16);

const LETTERS: [char; 4] = ['P', 'C', 'B', 'U'];

#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum CodeOrigin {
    /// The number means the same on every make.
    Generic,
    /// The maker's own: only the maker's description says what it means.
    Makers,
}

impl Code {
    pub fn from_bytes(bytes: [u8; 2]) -> Code {
        Code(u16::from_be_bytes(bytes))
    }

    pub fn bytes(self) -> [u8; 2] {
        self.0.to_be_bytes()
    }

    /// Reads `P0302`, `p0302`, `P 0302`, and the letter O where a zero was meant.
    ///
    /// # Errors
    /// In words, what is wrong with it.
    pub fn parse(text: &str) -> Result<Code, String> {
        let clean: Vec<char> = text.chars().filter(|c| !c.is_whitespace()).map(|c| c.to_ascii_uppercase()).collect();
        let shape = || format!("{} is no trouble code: one of P, C, B, U and four digits", text.trim());
        let &[letter, first, a, b, c] = clean.as_slice() else { return Err(shape()) };
        let letter = LETTERS.iter().position(|&l| l == letter).ok_or_else(shape)? as u16;
        let digit = |ch: char| (if ch == 'O' { '0' } else { ch }).to_digit(16).map(|d| d as u16);
        let first = digit(first)
            .filter(|&d| d < 4)
            .ok_or_else(|| format!("{} is no trouble code: its first digit is 0 to 3", text.trim()))?;
        let mut value = letter << 14 | first << 12;
        for (ch, shift) in [(a, 8), (b, 4), (c, 0)] {
            value |= digit(ch).ok_or_else(shape)? << shift;
        }
        Ok(Code(value))
    }

    pub fn letter(self) -> char {
        LETTERS[usize::from(self.0 >> 14)]
    }

    /// The digit after the letter: 0 to 3.
    pub fn first_digit(self) -> u8 {
        (self.0 >> 12 & 3) as u8
    }

    /// The third character, which names the subsystem of a powertrain code.
    pub fn third(self) -> char {
        char::from_digit(u32::from(self.0 >> 8 & 0xF), 16).unwrap_or('0').to_ascii_uppercase()
    }

    /// The three last digits as a number.
    pub fn number(self) -> u16 {
        self.0 & 0xFFF
    }

    /// Whether the standard gives the number its meaning, or the maker.
    pub fn origin(self) -> CodeOrigin {
        let generic = match (self.letter(), self.first_digit()) {
            (_, 0) => true,
            ('P', 2) => true,
            // P3400 to P3999 are shared, the rest of P3 is not.
            ('P', 3) => self.third() >= '4',
            ('U', 3) => true,
            _ => false,
        };
        if generic { CodeOrigin::Generic } else { CodeOrigin::Makers }
    }

    pub fn system(self) -> &'static str {
        match self.letter() {
            'P' => "powertrain",
            'C' => "chassis",
            'B' => "body",
            _ => "network",
        }
    }

    /// P0300: misfires that name no cylinder.
    pub fn is_random_misfire(self) -> bool {
        self == Code(0x0300)
    }

    /// The cylinder that the code names by its number, if it names one: misfire P0301 to P0312, injector P0201 to
    /// P0212 and P0261 to P0296, glow plug P0671 to P0682. The numbers are decimal, though written in hexadecimal.
    pub fn cylinder(self) -> Option<u8> {
        if self.letter() != 'P' || self.first_digit() != 0 {
            return None;
        }
        let number: u16 = format!("{:X}", self.number()).parse().ok()?;
        let cylinder = match number {
            301..=312 => number - 300,
            201..=212 => number - 200,
            671..=682 => number - 670,
            261..=296 => (number - 261) / 3 + 1,
            _ => return None,
        };
        Some(cylinder as u8)
    }

    /// The code `steps` further on in a run. Runs count in decimal (P0309 is followed by P0310), so a code whose last
    /// digits are not decimal has no successor.
    fn after(self, steps: u16) -> Option<Code> {
        let number: u16 = format!("{:X}", self.number()).parse().ok()?;
        let last = u16::from_str_radix(&(number + steps).to_string(), 16).ok()?;
        Some(Code(self.0 & 0xF000 | last))
    }
}

impl fmt::Display for Code {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{}{}{:03X}", self.letter(), self.first_digit(), self.number())
    }
}
