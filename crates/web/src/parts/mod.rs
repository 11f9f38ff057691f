//! What several pages are made of. No part knows a page.

pub(crate) mod circuit;
pub(crate) mod curve;
pub(crate) mod decision;
pub(crate) mod drawing;
pub(crate) mod fit;
pub(crate) mod lane;
pub(crate) mod learned;
pub(crate) mod nudges;
pub(crate) mod outings;
pub(crate) mod picture;
pub(crate) mod rows;
pub(crate) mod sketch;
pub(crate) mod source;
pub(crate) mod strip;
pub(crate) mod wants;
