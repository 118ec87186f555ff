//! Figures as SVG and PNG: plain data in, bytes out.
