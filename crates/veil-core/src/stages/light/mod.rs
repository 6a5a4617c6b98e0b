//! Blurs and light.

mod apart;
mod arc;
pub(super) mod blur;
mod body;
mod cast_light;
mod channel_shift;
mod defocus;
mod directional_blur;
mod edge_extend;
mod fog;
mod fringe;
mod glow;
pub(crate) mod grain;
mod light_balance;
mod light_wrap;
mod rays;
mod refraction;
mod relight;
mod rim;
mod sharpen;
mod vignette;
mod zoom_blur;

use crate::stage::Stage;

/// In the order that they are listed in.
pub(super) fn all() -> Vec<Box<dyn Stage>> {
    vec![
        Box::new(arc::ArcStage::new()),
        Box::new(glow::GlowStage::new()),
        Box::new(rays::RaysStage::new()),
        Box::new(defocus::Defocus::new()),
        Box::new(blur::Blur::new()),
        Box::new(directional_blur::DirectionalBlur::new()),
        Box::new(zoom_blur::ZoomBlurStage::new()),
        Box::new(sharpen::Sharpen::new()),
        Box::new(fringe::Fringe::new()),
        Box::new(channel_shift::ChannelShift::new()),
        Box::new(edge_extend::EdgeExtend::new()),
        Box::new(cast_light::CastLight::new()),
        Box::new(relight::Relight::new()),
        Box::new(fog::FogStage::new()),
        Box::new(light_balance::LightBalance::new()),
        Box::new(light_wrap::LightWrap::new()),
        Box::new(grain::Grain::new()),
        Box::new(refraction::Refraction::new()),
        Box::new(rim::Rim::new()),
        Box::new(vignette::Vignette::new()),
    ]
}
