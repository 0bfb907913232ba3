// A moss cushion with spore stalks, close to, on a boulder in a wood: 22 mm from side to side.
#include "macro.inc"
#include "transforms.inc"
Lens(<1.5, 9.5, -36>, <0.2, 5.6, 0>, 26)
#declare R = seed(20260);

// the wood behind, far out of focus: soft light between trunks
sky_sphere {
  pigment { gradient y colour_map { [0 rgb <0.035, 0.045, 0.022>] [0.45 rgb <0.05, 0.07, 0.03>] [0.56 rgb <0.20, 0.24, 0.10>] [1 rgb <0.62, 0.66, 0.42>] } scale 2 translate -y }
  pigment { bozo scale <0.13, 0.6, 0.13> turbulence 0.15 colour_map { [0.2 rgbt <0.015, 0.02, 0.01, 0.1>] [0.8 rgbt <0.62, 0.64, 0.26, 0.55>] } }
}
// the sun through leaves, from behind and aside; the open sky above
light_source { <60, 70, 75> rgb <1, 0.90, 0.68>*2.5 area_light x*7, y*7, 2, 2 adaptive 0 jitter circular orient }
light_source { <-40, 80, -30> rgb <0.62, 0.78, 0.95>*0.42 }
light_source { <0, 30, -80> rgb <0.9, 1, 0.85>*0.10 shadowless }

// leaves let light through: lit from behind they glow
#macro Leafy(C) texture { pigment { rgb C } finish { diffuse albedo 0.60, 0.66 specular albedo 0.06 roughness 0.04 } } #end

/** A leaf from its foot at the origin along y, bent back, keeled along its middle. */
#macro Leaf(Long, Wide, Bend, Turn, Lift, Foot)
  #local N = 5;
  #local I = 0;
  #local M = transform { rotate x*(90 - Lift) rotate y*Turn translate y*Foot };
  #while (I < N)
    #local A = I/N; #local B = (I + 1)/N;
    #local Wa = Wide*sin(pi*min(1, 0.12 + 0.88*A))*(1 - A*0.55); #local Wb = Wide*(I = N - 1 ? 0.015 : sin(pi*min(1, 0.12 + 0.88*B))*(1 - B*0.55));
    #local Pa = vtransform(<0, Long*A, Bend*A*A>, M); #local Pb = vtransform(<0, Long*B, Bend*B*B>, M);
    #local La = vtransform(<-Wa, Long*A, Bend*A*A - Wa*0.55>, M); #local Lb = vtransform(<-Wb, Long*B, Bend*B*B - Wb*0.55>, M);
    #local Ra = vtransform(<Wa, Long*A, Bend*A*A - Wa*0.55>, M); #local Rb = vtransform(<Wb, Long*B, Bend*B*B - Wb*0.55>, M);
    triangle { La, Lb, Pa } triangle { Lb, Pb, Pa } triangle { Pa, Pb, Ra } triangle { Pb, Rb, Ra }
    #local I = I + 1;
  #end
#end

/** A shoot of moss: leaves round a stem by the golden angle, the young ones upright at its top. */
#macro Shoot(Leaves, Tall)
  mesh {
    #local K = 0;
    #while (K < Leaves)
      #local T = K/Leaves;
      Leaf(0.95*(1 - 0.45*T)*(0.85 + 0.3*rand(R)), 0.16*(1 - 0.3*T), 0.28*(1 - T) + 0.1*rand(R), K*137.508 + 14*rand(R), 18 + 62*T*T + 10*rand(R), Tall*T)
      #local K = K + 1;
    #end
  }
#end
#declare Kinds = array[4];
#declare Kinds[0] = Shoot(26, 1.6) #declare Kinds[1] = Shoot(30, 2.0) #declare Kinds[2] = Shoot(22, 1.3) #declare Kinds[3] = Shoot(34, 2.2)
#declare Greens = array[5] { <0.14, 0.30, 0.035>, <0.22, 0.38, 0.05>, <0.32, 0.45, 0.07>, <0.10, 0.24, 0.04>, <0.40, 0.44, 0.09> }

/** Height of the cushion's surface over the boulder. */
#macro Ground(X, Z) (5.0*exp(-(X*X/150 + (Z - 3)*(Z - 3)/420)) + 0.5*sin(X*0.55 + 1)*cos(Z*0.42) + 0.22*sin(X*1.7 + Z*1.3)) #end

// the shoots, standing off the surface, close together
#local Z = -17;
#while (Z < 34)
  #local X = -13 - max(0, Z)*0.25;
  #while (X < 13 + max(0, Z)*0.25)
    #local Px = X + (rand(R) - 0.5)*0.8; #local Pz = Z + (rand(R) - 0.5)*0.8; #local Py = Ground(Px, Pz);
    #local Gx = (Ground(Px + 0.1, Pz) - Py)/0.1; #local Gz = (Ground(Px, Pz + 0.1) - Py)/0.1;
    #local Size = 0.62 + 0.42*rand(R);
    object { Kinds[int(rand(R)*3.999)] Leafy(Greens[int(rand(R)*4.999)]*(0.8 + 0.4*rand(R)))
      scale Size rotate y*360*rand(R) rotate <degrees(atan(Gz))*0.7 + (rand(R) - 0.5)*26, 0, -degrees(atan(Gx))*0.7 + (rand(R) - 0.5)*26> translate <Px, Py - 0.6, Pz> }
    #local X = X + 0.78;
  #end
  #local Z = Z + 0.78;
#end
// earth under them
#local Z = -18;
mesh { #while (Z < 34) #local X = -24; #while (X < 24)
  #local A = <X, Ground(X, Z) - 0.7, Z>; #local B = <X + 1, Ground(X + 1, Z) - 0.7, Z>; #local C = <X, Ground(X, Z + 1) - 0.7, Z + 1>; #local D = <X + 1, Ground(X + 1, Z + 1) - 0.7, Z + 1>;
  triangle { A, B, C } triangle { B, D, C } #local X = X + 1; #end #local Z = Z + 1; #end
  texture { pigment { granite scale 0.8 colour_map { [0 rgb <0.03, 0.02, 0.01>] [1 rgb <0.10, 0.09, 0.04>] } } } }

/** A spore stalk: a wiry seta with a nodding capsule, its lid drawn to a beak. */
#macro Stalk(X, Z, Tall, Lean, Ripe)
  #local Base = <X, Ground(X, Z) + 0.2, Z>;
  #local Off = <cos(Lean), 0, sin(Lean)>;
  #local Top = Base + y*Tall + Off*Tall*0.16;
  sphere_sweep { b_spline 7, Base - y*1.2, 0.08, Base, 0.08, Base + y*Tall*0.35 + Off*Tall*0.01 + 0.12*<rand(R) - 0.5, 0, rand(R) - 0.5>, 0.066, Base + y*Tall*0.7 + Off*Tall*0.06, 0.056, Top - Off*0.12, 0.05, Top + Off*0.32 + y*0.05, 0.06, Top + Off*0.72 - y*0.2, 0.1
    pigment { gradient y colour_map { [0 rgb <0.30, 0.11, 0.03>] [1 rgb <0.52, 0.24, 0.05>] } scale Tall translate y*Base.y } finish { diffuse albedo 0.7, 0.1 specular albedo 0.12 roughness 0.03 } }
  union {
    sphere { 0, 1 scale <0.30, 0.70, 0.30> pigment { gradient y colour_map { [0 rgb <0.34, 0.36, 0.07>] [0.6 rgb <0.50, 0.40, 0.08>*(1 - 0.3*Ripe)] [1 rgb <0.48, 0.20, 0.04>] } scale 1.5 translate -y*0.75 } }
    torus { 0.2, 0.035 translate y*0.54 pigment { rgb <0.42, 0.12, 0.03> } }
    cone { y*0.54, 0.19, y*1.02, 0.015 pigment { rgb <0.55, 0.30, 0.08> } }
    normal { wrinkles 0.35 scale <0.06, 0.3, 0.06> } finish { diffuse albedo 0.68, 0.12 specular albedo 0.22 roughness 0.025 }
    rotate z*-(112 - 34*Ripe) rotate y*-degrees(Lean) translate Top + Off*0.8 - y*0.2
  }
#end
#declare Stalks = array[17][2] { {-6.6, -9}, {-3.0, -11.5}, {3.6, -8.5}, {7.0, -4.0}, {-1.2, -5.5}, {-8.2, -1}, {1.9, -1.6}, {5.4, 2.4}, {-4.3, 3}, {9.3, 6.0}, {-0.6, 6.5}, {-9.9, 9}, {3.4, 11}, {-5.9, 14}, {7.6, 16}, {0.9, 19}, {-2.6, 25} }
#local I = 0;
#while (I < 17) Stalk(Stalks[I][0], Stalks[I][1], 2.7 + 1.7*rand(R), 2*pi*rand(R), rand(R)) #local I = I + 1; #end
// dew
#local I = 0;
#while (I < 90)
  #local X = (rand(R) - 0.5)*22; #local Z = -14 + rand(R)*34;
  sphere { <X, Ground(X, Z) + 0.55 + 0.7*rand(R), Z>, 0.10 + 0.16*rand(R) pigment { rgbf <0.97, 0.99, 1, 0.95> } finish { diffuse 0.02 specular albedo 0.10 roughness 0.02 reflection { 0.02, 0.4 fresnel } } interior { ior 1.33 } }
  #local I = I + 1;
#end
