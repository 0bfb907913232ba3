// The ridge seen from the observatory's roof, a piece of the sphere: at morning (160 x 64 degrees), or with `Dusk` at dusk
// (128 x 64). Of the latter, `Sky` leaves out all but the sky, its cloud drifted by so many seconds, and `Mask` all light: rendered
// with alpha it tells land from sky. Cloud drifts between its frames.
#version 3.7;
#include "functions.inc"
global_settings { assumed_gamma 1.0 noise_generator 3 max_trace_level 4 }
#include "land.inc"

#ifndef (Dusk) #declare Dusk = 0; #end
#declare Land_only = 0;
#ifndef (Sky) #declare Sky = 0; #declare Land_only = 1; #end
#ifndef (Mask) #declare Mask = 0; #end
#declare Hills = function(x, z) { f_noise3d(x*2.1+7, 0.3, z*2.1+3) }
#declare Ridged = function(x, z) { 1 - abs(2*f_noise3d(x*4.3+1, 2.7, z*4.3+9) - 1) }
#declare Rough = function(x, z) { f_noise3d(x*17, 5.1, z*17)*0.6 + f_noise3d(x*41, 8.2, z*41)*0.28 + f_noise3d(x*97, 3.2, z*97)*0.12 }
// low where one stands, rising into a chain to the north
#declare Height = function(x, z) {
  0.05 + 0.16*Hills(x, z) + min(1, max(0, (z-0.42)*2.6))*(0.30*Ridged(x, z)*Ridged(x, z) + 0.12*Ridged(x*2.1+4, z*2.1)) + 0.016*Rough(x, z)*(0.4 + 1.6*Ridged(x,z))
}
#declare Size = 9000;
#declare Land = height_field {
  function 1800, 1800 { Height(x, 1-y) } smooth
  translate <-0.5, 0, -0.32> scale <Size, 2600, Size>
}
#if (Land_only)
object { Land
  texture { pigment { gradient y pigment_map { [0 Steep] [0.40 Steep] [0.47 Rock] [0.56 Rock] [0.62 Snow] [1 Snow] } turbulence 0.06 scale 2600 } normal { average normal_map { [1 granite 0.30 scale 2.2] [1 bumps 0.10 scale 30] } } finish { diffuse 0.85 ambient 0 } } }

// a lake in the valley
plane { y, 292 texture { pigment { colour rgb <0.012,0.022,0.026> } normal { bumps 0.035 scale <14,1,5> } finish { diffuse 0.4 ambient 0 specular 0.5 roughness 0.004 reflection { 0.06, 0.75 fresnel on } conserve_energy } } interior { ior 1.33 } }

#declare R = seed(77);
#declare N = 0;
#while (N < 5200)
  #local D = 110 + 2600*pow(rand(R), 1.7);
  #local A = (rand(R)-0.5)*190*pi/180;
  #local P = <D*sin(A), 0, D*cos(A)>;
  #if (f_noise3d(P.x/260+4, 1, P.z/260) > 0.5)
    #local Up = <0,0,0>;
    #local Hit = trace(Land, <P.x, 3000, P.z>, -y, Up);
    #if (vlength(Up) > 0 & Hit.y > 297 & Hit.y < 1000 & Up.y > 0.72)
      object { Fir scale <1, 1.1, 1>*(0.75+rand(R)*0.9) rotate y*rand(R)*360 translate Hit-y*0.4 }
    #end
  #end
  #declare N = N+1;
#end
// walls and a hut give people something to hold on to
#declare N = 0;
#while (N < 420)
  #local A = -64 + N*0.31; #local D = 95 + 22*sin(N/47) ;
  #local Up = <0,0,0>; #local Hit = trace(Land, <D*sin(A*pi/180), 3000, D*cos(A*pi/180)>, -y, Up);
  superellipsoid { <0.55,0.5> scale <0.34+0.16*rand(R), 0.42+0.25*rand(R), 0.3+0.1*rand(R)> rotate y*rand(R)*360 translate Hit+y*0.25 texture { pigment { Rock scale 0.03 } normal { granite 0.5 scale 0.4 } finish { diffuse 0.85 ambient 0 } } }
  #declare N = N+1;
#end
#declare N = 0;
#while (N < 260)
  #local D = 40 + 520*pow(rand(R), 1.4); #local A = (rand(R)-0.5)*170*pi/180;
  #local Up = <0,0,0>; #local Hit = trace(Land, <D*sin(A), 3000, D*cos(A)>, -y, Up);
  superellipsoid { <0.7,0.6> scale <0.5+1.3*rand(R), 0.35+0.8*rand(R), 0.5+rand(R)> rotate <20*rand(R), rand(R)*360, 15*rand(R)> translate Hit texture { pigment { Rock scale 0.02 } normal { granite 0.6 scale 0.6 } finish { diffuse 0.85 ambient 0 } } }
  #declare N = N+1;
#end
#declare Up = <0,0,0>; #declare Hit = trace(Land, <210*sin(0.42), 3000, 210*cos(0.42)>, -y, Up);
union {
  box { <-6,-3,-4>, <6,4.2,4> texture { pigment { brick colour rgb <0.30,0.27,0.24>, colour rgb <0.42,0.38,0.33> brick_size <1.2,0.5,0.6> mortar 0.05 } finish { diffuse 0.8 } } }
  prism { linear_sweep -6.7, 6.7, 4, <-5,0>, <5,0>, <0,4.6>, <-5,0> rotate <-90,0,90> rotate z*90 rotate y*90 translate y*4.2 texture { pigment { colour rgb <0.10,0.085,0.08> } normal { wrinkles 0.5 scale 0.4 } finish { diffuse 0.7 } } }
  box { <-1,-3,-4.05>, <1,2,-3.9> pigment { colour rgb <0.12,0.05,0.03> } }
  box { <2.6,0.6,-4.05>, <4.2,2.4,-3.9> pigment { colour rgb <0.9,0.7,0.35> } finish { ambient 0 emission 0.5 diffuse 0 } }
  rotate y*-20 translate Hit+y*2
}
#end

#macro Cloud(Low, Thick, Lit, Edge) pigment { wrinkles turbulence 0.7 octaves 7 omega 0.55 scale <0.55,0.10,0.35> translate <0.0034, 0, 0.0012>*Sky colour_map { [0 rgbt <1,1,1,1>] [Low rgbt <1,1,1,1>] [Thick rgbt <Edge.x,Edge.y,Edge.z,0.35>] [1 rgbt <Lit.x,Lit.y,Lit.z,0.10>] } } #end
#if (Dusk & !Mask)
    Sun(<1.0, 0.10, 0.55>, <0.95, 0.42, 0.20>) Fill(<2000, 9000, -6000>, <0.075, 0.095, 0.16>) Fill(<9000, 3000, 7000>, <0.10, 0.06, 0.045>)
    sky_sphere {
      pigment { planar rotate z*0 scale 1 colour_map { [0 rgb <0.05,0.075,0.17>] [0.55 rgb <0.10,0.14,0.27>] [0.80 rgb <0.30,0.27,0.36>] [0.93 rgb <0.85,0.47,0.26>] [1 rgb <1.6,0.75,0.28>] } }
      Cloud(0.42, 0.62, <0.42,0.22,0.20>, <1.15,0.52,0.30>)
    }
    fog { fog_type 2 distance 6200 fog_offset 420 fog_alt 260 colour rgb <0.30,0.22,0.24> }
    fog { fog_type 2 distance 2100 fog_offset 292 fog_alt 40 colour rgb <0.26,0.22,0.27> turbulence 0.3 turb_depth 0.6 }
#elseif (!Dusk)
    Sun(<-1.05, 0.25, 0.30>, <3.3, 2.45, 1.65>) Fill(<2000, 9000, -6000>, <0.20, 0.27, 0.40>) Fill(<9000, 6000, 3000>, <0.09, 0.11, 0.16>)
    sky_sphere {
      pigment { gradient y colour_map { [0 rgb <0.95,0.70,0.46>] [0.07 rgb <0.86,0.74,0.62>] [0.16 rgb <0.55,0.66,0.78>] [0.42 rgb <0.24,0.40,0.66>] [1 rgb <0.10,0.22,0.48>] } }
      Cloud(0.52, 0.74, <1.1,1.0,0.92>, <1.05,0.93,0.82>)
    }
    fog { fog_type 2 distance 5200 fog_offset 420 fog_alt 260 colour rgb <0.66,0.66,0.68> }
    fog { fog_type 2 distance 1500 fog_offset 292 fog_alt 40 colour rgb <0.90,0.80,0.70> turbulence 0.3 turb_depth 0.6 }
#end

#declare Up = <0,0,0>; #declare Stand = trace(Land, <0, 3000, 0>, -y, Up);
camera { spherical location Stand + y*14 look_at Stand + <0, 13.2, 12> angle (Dusk ? 128 : 160) 64 }
