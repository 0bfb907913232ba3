// The brass gears of the telescope's clock drive, close to: 46 mm from corner to corner, 34 mm deep.
#include "macro.inc"
Lens(<3, 58, -66>, <1, 3, 5>, 24)
sky_sphere { pigment { gradient y colour_map { [0 rgb <0.10, 0.09, 0.08>] [0.45 rgb <0.16, 0.17, 0.19>] [1 rgb <0.55, 0.60, 0.68>] } } }
Softbox(<-70, 90, 10>, <0, 0, 5>, 34, <1, 0.93, 0.82>, 1.5)
Softbox(<80, 60, 50>, <0, 0, 5>, 22, <0.72, 0.84, 1>, 0.9)

#declare Brass = texture {
  pigment { rgb <0.83, 0.60, 0.27> }
  normal { average normal_map { [1 granite 0.05 scale 0.5] [1 bumps 0.03 scale 0.12] [0.5 wrinkles 0.05 scale 3] } }
  finish { diffuse 0.20 specular 0.55 roughness 0.02 metallic reflection { 0.52 metallic } conserve_energy }
}
#declare Turned = texture {
  pigment { rgb <0.86, 0.63, 0.29> }
  normal { average normal_map { [1.4 wood 0.28 rotate x*90 scale 0.11] [1 granite 0.04 scale 0.4] } }
  finish { diffuse 0.22 specular 0.6 roughness 0.025 metallic reflection { 0.46 metallic } conserve_energy }
}
#declare Blued = texture {
  pigment { granite scale 4 colour_map { [0 rgb <0.018, 0.026, 0.05>] [1 rgb <0.045, 0.06, 0.10>] } }
  normal { average normal_map { [1 granite 0.10 scale <6, 0.2, 0.12>] [1 bumps 0.05 scale 0.2] } }
  finish { diffuse 0.7 specular 0.5 roughness 0.03 metallic reflection { 0.16 metallic } }
}
#declare Steel = texture { pigment { rgb <0.62, 0.63, 0.66> } normal { wood 0.2 rotate x*90 scale 0.09 } finish { diffuse 0.22 specular 0.8 roughness 0.01 metallic reflection { 0.5 metallic } conserve_energy } }
#declare Ruby = material { texture { pigment { rgbf <0.75, 0.04, 0.09, 0.6> } finish { diffuse 0.4 specular 0.9 roughness 0.003 reflection { 0.05, 0.6 fresnel } } } interior { ior 1.76 } }

/** A spur gear about the y axis, its foot at y = 0. */
#macro Gear(Teeth, Module, Thick, Spokes)
  #local R = Teeth*Module/2;
  #local Root = R - 1.15*Module;
  // no bore: a cut through all teeth would cost every ray its way through each of them, and the arbor fills it
  union {
      difference { cylinder { 0, y*Thick, Root } cylinder { -y, y*(Thick + 1), Root - 2.2*Module } }
      #local I = 0;
      #while (I < Teeth)
        prism { linear_spline 0, Thick, 5, <Root - 0.15*Module, -0.74*Module>, <R + 0.9*Module, -0.33*Module>, <R + 0.9*Module, 0.33*Module>, <Root - 0.15*Module, 0.74*Module>, <Root - 0.15*Module, -0.74*Module> rotate y*360*I/Teeth }
        #local I = I + 1;
      #end
      #local I = 0;
      #while (I < Spokes)
        box { <0, Thick*0.18, -0.75*Module>, <Root - Module, Thick*0.82, 0.75*Module> rotate y*(360*I/Spokes + 17) }
        #local I = I + 1;
      #end
      cylinder { y*Thick*0.1, y*Thick*1.12, 3.1*Module }
    texture { Turned }
  }
#end
/** A slotted screw, its head's foot at y = 0. */
#macro Screw(R, Turn)
  difference { union { cylinder { 0, y*R*0.55, R } sphere { 0, R scale <1, 0.30, 1> translate y*R*0.55 } } box { <-R*1.2, R*0.42, -R*0.16>, <R*1.2, R*2, R*0.16> } texture { Blued } rotate y*Turn }
#end

// the plate, with its edge, holes and maker's numbers
difference {
  box { <-60, -4, -40>, <60, 0, 60> }
  #local I = 0;
  #while (I < 9) cylinder { <-16 + 4.1*I, -0.35, -8 - mod(I, 2)*0.6>, <-16 + 4.1*I, 1, -8 - mod(I, 2)*0.6>, 0.34 } #local I = I + 1; #end
  texture { Blued }
}
// wheels of the train, each meshing with the next, from near to far
object { Gear(54, 0.62, 2.0, 6) rotate y*3 translate <-7.5, 3.0, 8> }
object { Gear(16, 0.62, 5.6, 0) rotate y*8 translate <13.2, 2.2, 1.6> }
object { Gear(44, 0.55, 1.8, 5) rotate y*5 translate <13.2, 8.2, 13.4> }
object { Gear(12, 0.55, 5, 0) rotate y*11 translate <-0.6, 6.6, 19.4> }
object { Gear(38, 0.7, 2.4, 4) rotate y*2 translate <-19, 7.6, 30> }
#macro Arbor(X, Z, H, R)
  cylinder { <X, 0, Z>, <X, H, Z>, R texture { Steel } }
  cone { <X, H, Z>, R, <X, H + R*0.9, Z>, R*0.45 texture { Steel } }
  torus { R*1.9, R*0.5 translate <X, 0.3, Z> texture { Brass } }
#end
Arbor(-7.5, 8, 8.4, 0.7) Arbor(13.2, 1.6, 10.2, 0.7) Arbor(13.2, 13.4, 12.5, 0.62) Arbor(-0.6, 19.4, 13, 0.62) Arbor(-19, 30, 14, 0.8)
// the bridge over the nearest arbor, with its jewel
difference {
  union { box { <-16, 8.2, 5.8>, <1, 9.6, 10.2> } cylinder { <-16, 8.2, 8>, <-16, 9.6, 8>, 2.2 } cylinder { <1, 8.2, 8>, <1, 9.6, 8>, 2.2 } }
  cylinder { <-7.5, 8, 8>, <-7.5, 11, 8>, 1.5 }
  texture { Brass }
}
torus { 1.02, 0.46 translate <-7.5, 9.35, 8> material { Ruby } }
object { Screw(1.35, 31) translate <-16, 9.6, 8> }
object { Screw(1.35, 104) translate <1, 9.6, 8> }
cylinder { <-16, 0, 8>, <-16, 8.2, 8>, 1.5 texture { Turned } }
cylinder { <1, 0, 8>, <1, 8.2, 8>, 1.5 texture { Turned } }
object { Screw(1.5, 62) translate <5, 0, -7> }
object { Screw(1.5, -20) translate <-17, 0, -4> }
object { Screw(1.2, 80) translate <20, 0, 22> }
// the worm that drives the train, across the front
#declare Worm = union {
  cylinder { <-13, 0, 0>, <13, 0, 0>, 1.05 }
  #local I = 0;
  #while (I < 260)
    #local A = I*2*pi/26;
    sphere { <-11 + 22*I/260, 1.35*cos(A), 1.35*sin(A)>, 0.36 }
    #local I = I + 1;
  #end
  texture { Steel }
}
object { Worm translate <8, 4.6, -5.2> }
box { <-5.2, 0, -6.6>, <-3.4, 6.2, -3.8> texture { Brass } }
box { <19.6, 0, -6.6>, <21.4, 6.2, -3.8> texture { Brass } }
// a curl of swarf and a hair, which every workshop has
sphere_sweep { b_spline 9, <-12, 0.3, -9>, 0.06, <-10, 0.3, -8.4>, 0.06, <-8.4, 1.6, -7.8>, 0.06, <-9.6, 2.3, -7.6>, 0.06, <-10.2, 0.9, -7.5>, 0.06, <-8, 0.4, -7.2>, 0.06, <-6.2, 1.5, -6.6>, 0.06, <-5, 0.6, -7>, 0.06, <-3, 0.2, -8>, 0.06 texture { Brass } }
