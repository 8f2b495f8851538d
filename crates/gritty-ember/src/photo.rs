//! A photograph as it is kept: written anew from its points, so that nothing that stood beside them in the file stays,
//! least of all where it was taken.

use std::io::Cursor;

use ember_core::refusal::Refusal;
use image::codecs::jpeg::JpegEncoder;
use image::imageops::FilterType;
use image::{DynamicImage, ImageDecoder, ImageFormat, ImageReader, Limits};

/// The largest file that is taken.
pub const LARGEST: usize = 15 * 1024 * 1024;
/// The longest side of a kept picture: enough to count the strands of a wire.
const LONGEST_SIDE: u32 = 2600;
const THUMBNAIL_SIDE: u32 = 360;
/// Points along a side and bytes in memory beyond which a small file has been made to burst.
const MOST_POINTS: u32 = 16_000;
const MOST_MEMORY: u64 = 400 * 1024 * 1024;

/// A picture and its thumbnail, both JPEG.
pub struct Photo {
    pub width: u32,
    pub height: u32,
    pub picture: Vec<u8>,
    pub thumbnail: Vec<u8>,
}

/// Reads a JPEG, PNG or WebP, turns it as its camera was held, and writes it anew.
///
/// # Errors
/// Under `file`: too large, no picture of these three kinds, damaged, or of absurd dimensions.
pub fn photo(bytes: &[u8]) -> Result<Photo, Refusal> {
    let refuse = |reason: String| Refusal::new("file", reason);
    if bytes.len() > LARGEST {
        return Err(too_large());
    }
    let mut reader =
        ImageReader::new(Cursor::new(bytes)).with_guessed_format().map_err(|error| refuse(error.to_string()))?;
    if !matches!(reader.format(), Some(ImageFormat::Jpeg | ImageFormat::Png | ImageFormat::WebP)) {
        return Err(refuse("is no photograph that can be read here: JPEG, PNG or WebP are".into()));
    }
    let mut limits = Limits::default();
    limits.max_image_width = Some(MOST_POINTS);
    limits.max_image_height = Some(MOST_POINTS);
    limits.max_alloc = Some(MOST_MEMORY);
    reader.limits(limits);
    let damaged = |error: image::ImageError| refuse(format!("the picture cannot be read: {error}"));
    let mut decoder = reader.into_decoder().map_err(damaged)?;
    let held = decoder.orientation().map_err(damaged)?;
    let mut picture = DynamicImage::from_decoder(decoder).map_err(damaged)?;
    picture.apply_orientation(held);
    if picture.width().max(picture.height()) > LONGEST_SIDE {
        picture = picture.resize(LONGEST_SIDE, LONGEST_SIDE, FilterType::Triangle);
    }
    let small = picture.thumbnail(THUMBNAIL_SIDE, THUMBNAIL_SIDE);
    Ok(Photo {
        width: picture.width(),
        height: picture.height(),
        picture: jpeg(&picture, 88).map_err(damaged)?,
        thumbnail: jpeg(&small, 80).map_err(damaged)?,
    })
}

/// What is said of a file that is too large, before it is read.
pub fn too_large() -> Refusal {
    Refusal::new("file", format!("is larger than {} MB: choose a smaller size on the camera", LARGEST >> 20))
}

fn jpeg(picture: &DynamicImage, quality: u8) -> Result<Vec<u8>, image::ImageError> {
    let mut out = Vec::new();
    JpegEncoder::new_with_quality(&mut out, quality).encode_image(&picture.to_rgb8())?;
    Ok(out)
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    fn picture(format: ImageFormat) -> Vec<u8> {
        let mut out = Cursor::new(Vec::new());
        let points = image::RgbImage::from_fn(60, 40, |x, y| image::Rgb([(x * 4) as u8, (y * 6) as u8, 90]));
        DynamicImage::ImageRgb8(points).write_to(&mut out, format).unwrap();
        out.into_inner()
    }

    /// A JPEG with an EXIF block that says where it was taken, and that the camera was held on its side.
    fn with_a_place() -> Vec<u8> {
        let plain = picture(ImageFormat::Jpeg);
        let mut tiff = b"Exif\0\0II*\0\x08\0\0\0".to_vec();
        // Two fields: orientation 6, and a description that stands for a place.
        tiff.extend(2u16.to_le_bytes());
        tiff.extend([0x12, 0x01, 3, 0, 1, 0, 0, 0, 6, 0, 0, 0]);
        tiff.extend([0x0E, 0x01, 2, 0, 20, 0, 0, 0, 38, 0, 0, 0]);
        tiff.extend(0u32.to_le_bytes());
        tiff.extend(b"GPS 54.51 N 3.21 W \0");
        let mut out = plain[..2].to_vec();
        out.extend([0xFF, 0xE1]);
        out.extend((tiff.len() as u16 + 2).to_be_bytes());
        out.extend(tiff);
        out.extend(&plain[2..]);
        out
    }

    #[rstest]
    #[case::jpeg(ImageFormat::Jpeg)]
    #[case::png(ImageFormat::Png)]
    #[case::webp(ImageFormat::WebP)]
    fn the_three_kinds_are_taken_and_get_a_thumbnail(#[case] format: ImageFormat) {
        let kept = photo(&picture(format)).unwrap();
        assert_eq!((kept.width, kept.height), (60, 40));
        let small = image::load_from_memory(&kept.thumbnail).unwrap();
        assert!(small.width() <= THUMBNAIL_SIDE);
    }

    #[test]
    fn where_it_was_taken_is_gone_and_it_stands_upright() {
        let taken = with_a_place();
        assert!(taken.windows(3).any(|w| w == b"GPS"), "the test's own picture lacks its place");
        let kept = photo(&taken).unwrap();
        for bytes in [&kept.picture, &kept.thumbnail] {
            assert!(!bytes.windows(3).any(|w| w == b"GPS") && !bytes.windows(4).any(|w| w == b"Exif"));
        }
        assert_eq!((kept.width, kept.height), (40, 60));
    }

    #[rstest]
    #[case::text(b"this is a note and no picture at all".to_vec(), "JPEG, PNG or WebP")]
    #[case::cut_off(picture(ImageFormat::Png)[..60].to_vec(), "cannot be read")]
    #[case::too_large(vec![0xFF; LARGEST + 1], "15 MB")]
    fn what_is_no_photograph_is_refused_with_its_reason(#[case] bytes: Vec<u8>, #[case] reason: &str) {
        let Err(refusal) = photo(&bytes) else { panic!("taken") };
        assert!(refusal.field == "file" && refusal.reason.contains(reason), "{refusal}");
    }
}
