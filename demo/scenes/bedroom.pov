// The guest bedroom at night: a bedside lamp, a cooler ceiling of moonlight, lights in the valley.
#include "common.inc"
camera { perspective location <-1.95, 1.42, -2.5> look_at <0.45, 0.92, 1.1> right x*1.5 up y angle 70 }
light_source { <-600, 700, 1200> rgb <0.55, 0.70, 1.0>*0.05 area_light x*10, y*10, 3, 3 adaptive 1 jitter }
sky_sphere { pigment { gradient y color_map { [0 rgb <0.020, 0.030, 0.055>] [0.3 rgb <0.007, 0.012, 0.03>] [1 rgb <0.003, 0.005, 0.014>] } } }
#local R = seed(19); #local I = 0;
#while (I < 260) sphere { vnormalize(<-1.2+rand(R)*1.7, 0.02+rand(R)*0.8, 1>)*1800, 1.2+rand(R)*1.6 pigment { rgb 1 } finish { diffuse 0 emission 0.25+rand(R)*1.2 } no_shadow no_radiosity } #local I = I+1; #end
height_field { function 200, 200 { f_ridged_mf(x*3.1, 1.7, y*3.1, 0.9, 2.2, 7, 0.9, 1.5, 2)*0.4 } smooth translate <-0.5, 0, 0> scale <1400, 110, 500> translate <-100, -75, 180> pigment { rgb <0.05, 0.06, 0.055> } finish { emission 0.006 } }
#local I = 0; #while (I < 26) sphere { <-190+rand(R)*300, -24-rand(R)*12, 175+rand(R)*30>, 0.55 pigment { rgb 1 } finish { diffuse 0 emission <1, 0.72, 0.36>*(1+rand(R)*5) } no_radiosity } #local I = I+1; #end
object { Planks(-2.5, 2.6, -3.2, 2.1, 0.14, 21) }
difference { box { <-2.7, -0.1, 2>, <2.8, 2.8, 2.25> } box { <-1.75, 0.85, 1.9>, <-0.35, 2.3, 2.4> } Plaster(<0.56, 0.60, 0.58>) }
box { <-2.7, -0.1, -3.4>, <-2.5, 2.8, 2.2> Plaster(<0.62, 0.62, 0.57>) }
box { <2.5, -0.1, -3.4>, <2.7, 2.8, 2.2> Plaster(<0.62, 0.62, 0.57>) }
box { <-2.7, -0.1, -3.5>, <2.7, 2.8, -3.2> Plaster(<0.62, 0.62, 0.57>) }
box { <-2.7, 2.6, -3.4>, <2.7, 2.8, 2.2> Plaster(<0.78, 0.77, 0.74>) }
box { <-2.7, -0.3, -3.4>, <2.7, -0.03, 2.2> pigment { rgb 0.1 } }
box { <-2.5, 0, 1.975>, <2.5, 0.12, 2> texture { WhitePaint } }
union { SashWindow(1.4, 1.45, 3, 4, 0.024) translate <-1.05, 0.85, 2.06> }
// curtains
#macro Curtain(X0, X1) mesh2 { #local N = 90; vertex_vectors { (N+1)*2 #local I = 0; #while (I <= N) , <X0+(X1-X0)*I/N, 2.42, 1.90+0.045*sin(I*0.85)+0.015*sin(I*2.3)>, <X0+(X1-X0)*I/N*1.0, 0.06, 1.90+0.06*sin(I*0.85+0.3)+0.02*sin(I*2.1)> #local I = I+1; #end }
  face_indices { N*2 #local I = 0; #while (I < N) , <I*2, I*2+1, I*2+2>, <I*2+1, I*2+3, I*2+2> #local I = I+1; #end } Cloth(<0.36, 0.27, 0.16>, 0.5) } #end
Curtain(-2.25, -1.72) Curtain(-0.38, 0.12)
cylinder { <-2.4, 2.44, 1.9>, <0.3, 2.44, 1.9>, 0.016 texture { Brass } }
sphere { <-2.42, 2.44, 1.9>, 0.035 texture { Brass } } sphere { <0.32, 2.44, 1.9>, 0.035 texture { Brass } }
// bed, head against the far wall
union {
  box { <0.55, 0.1, -0.35>, <2.15, 0.36, 1.85> Wood(Walnut, WalnutLight, 1.2) }
  superellipsoid { <0.15, 0.25> scale <0.82, 0.13, 1.12> translate <1.35, 0.44, 0.72> Cloth(<0.72, 0.70, 0.66>, 1) }
  superellipsoid { <0.12, 0.35> scale <0.86, 0.11, 0.80> translate <1.35, 0.53, 0.42> Cloth(<0.17, 0.22, 0.28>, 2.2) }
  superellipsoid { <0.2, 0.5> scale <0.87, 0.055, 0.12> translate <1.35, 0.605, 1.15> Cloth(<0.74, 0.71, 0.65>, 1) }
  superellipsoid { <0.5, 0.55> scale <0.35, 0.13, 0.23> rotate x*-24 translate <0.96, 0.70, 1.58> Cloth(<0.76, 0.74, 0.70>, 1) }
  superellipsoid { <0.5, 0.55> scale <0.35, 0.13, 0.23> rotate x*-24 translate <1.74, 0.70, 1.58> Cloth(<0.76, 0.74, 0.70>, 1) }
  superellipsoid { <0.55, 0.6> scale <0.24, 0.10, 0.17> rotate x*-40 translate <1.32, 0.76, 1.34> Cloth(<0.48, 0.20, 0.10>, 1) }
  superellipsoid { <0.15, 0.2> scale <0.84, 0.42, 0.04> translate <1.35, 0.75, 1.92> Wood(Walnut, WalnutLight, 1.2) }
  superellipsoid { <0.15, 0.3> scale <0.875, 0.03, 0.26> translate <1.35, 0.635, -0.08> Cloth(<0.44, 0.31, 0.15>, 1.4) }
}
// bedside table, lamp, books, glass
union { box { <0.02, 0.50, 1.5>, <0.46, 0.53, 1.94> } box { <0.04, 0.32, 1.52>, <0.44, 0.50, 1.92> } box { <0.03,0,1.51>, <0.07,0.5,1.55> } box { <0.41,0,1.51>, <0.45,0.5,1.55> } box { <0.03,0,1.89>, <0.07,0.5,1.93> } box { <0.41,0,1.89>, <0.45,0.5,1.93> } Wood(Oak, OakLight, 1) }
sphere { <0.24, 0.41, 1.51>, 0.018 texture { Brass } }
union { TableLamp(0.36, 0.15, 1.9, <1, 0.58, 0.26>) translate <0.27, 0.53, 1.76> }
box { <0.06, 0.53, 1.55>, <0.24, 0.555, 1.68> pigment { rgb <0.30, 0.09, 0.06> } } box { <0.07, 0.555, 1.555>, <0.235, 0.575, 1.675> pigment { rgb <0.08, 0.14, 0.13> } rotate y*3 }
difference { cylinder { <0.38, 0.531, 1.60>, <0.38, 0.63, 1.60>, 0.030 } cylinder { <0.38, 0.536, 1.60>, <0.38, 0.64, 1.60>, 0.027 } material { ClearGlass } }
// chest with mirror on the right wall side, picture, rug
box { <-0.5, 0, -1.0>, <0.45, 0.014, 1.2> Cloth(<0.50, 0.45, 0.36>, 1.8) }
box { <-0.44, 0, -0.94>, <0.39, 0.015, 1.14> Cloth(<0.30, 0.13, 0.09>, 1.8) }
union { box { <1.15, 1.55, 1.97>, <1.75, 2.05, 2> Wood(Walnut, WalnutLight, 0.7) } box { <1.20, 1.60, 1.965>, <1.70, 2.0, 1.98> pigment { bozo turbulence 0.9 scale <0.3, 0.08, 1> color_map { [0 rgb <0.10,0.13,0.10>] [0.5 rgb <0.42,0.42,0.36>] [1 rgb <0.55,0.47,0.35>] } } } }
union { Armchair(<0.22, 0.10, 0.05>) scale 0.92 rotate y*60 translate <-1.75, 0, 0.95> }
