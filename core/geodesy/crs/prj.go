package crs

import (
	"fmt"
	"math"
	"strconv"
	"strings"
)

// WKT writes the system as a .prj file has it, in the names that such files use.
func (s *System) WKT() string { return s.wkt(false) }

// WKTWithCodes writes the system with its numbers, as GeoPackage has it (OGC 01-009).
func (s *System) WKTWithCodes() string { return s.wkt(true) }

// prjMethods are the names that .prj files use.
var prjMethods = map[Method]string{
	TransverseMercator: "Transverse_Mercator", TransverseSouth: "Transverse_Mercator",
	Conformal1: "Lambert_Conformal_Conic", Conformal2: "Lambert_Conformal_Conic",
	MercatorA: "Mercator", MercatorB: "Mercator", WebMercator: "Mercator_Auxiliary_Sphere",
	AzimuthalEqualArea: "Lambert_Azimuthal_Equal_Area", Albers: "Albers",
	PolarStereoB: "Stereographic_North_Pole", PolarStereoA: "Polar_Stereographic_Variant_A",
	PolarStereoC: "Polar_Stereographic_Variant_C", ObliqueStereo: "Double_Stereographic",
	HotineA: "Rectified_Skew_Orthomorphic_Natural_Origin", HotineB: "Rectified_Skew_Orthomorphic_Center",
	Krovak: "Krovak", KrovakNorth: "Krovak",
	CassiniSoldner: "Cassini", CylindricalEqualArea: "Cylindrical_Equal_Area",
	ConformalBelgium: "Lambert_Conformal_Conic_2SP_Belgium", ConformalMichigan: "Lambert_Conformal_Conic",
}

// wktWriter writes well-known text (WKT 1, OGC 01-009), with numbers of EPSG and the registry's own names or without.
type wktWriter struct {
	codes bool
}

func (s *System) wkt(codes bool) string {
	w := wktWriter{codes}
	geo := w.geographic(s)
	if !s.Projected() {
		return geo
	}
	measure := map[float64]string{1: "Meter", 0.3048: "Foot"}[s.Measure]
	if math.Abs(s.Measure-1200.0/3937) < 1e-10 {
		measure = "Foot_US"
	} else if measure == "" {
		measure = "Measure"
	}
	method := prjMethods[s.Method]
	if s.Method == PolarStereoB && s.Lat0 < 0 {
		method = "Stereographic_South_Pole"
	}
	return fmt.Sprintf(`PROJCS["%s",%s,PROJECTION["%s"]%s,UNIT["%s",%s]%s]`, w.name(s.Name), geo, method,
		s.prjParameters(), measure, wktNumber(s.Measure), w.authority(s.Code))
}

// geographic writes the GEOGCS of a system.
func (w wktWriter) geographic(s *System) string {
	g := s.Geographic
	datum, system, ball := g.Alias, "GCS_"+w.name(g.Name), w.name(g.Ellipsoid)
	switch {
	case w.codes:
		datum, system = w.name(g.Datum), w.name(g.Name)
	case strings.HasPrefix(g.Alias, "D_"):
		system = "GCS_" + strings.TrimPrefix(g.Alias, "D_")
	case datum == "":
		datum = "D_" + w.name(g.Datum)
	}
	if !w.codes && g.Code == 4326 {
		ball = "WGS_1984"
	}
	meridian := "Greenwich"
	if g.Meridian != 0 {
		meridian = "Reference_Meridian"
	}
	unit := 1.0
	if !s.Projected() {
		unit = s.Measure
	}
	return fmt.Sprintf(`GEOGCS["%s",DATUM["%s",SPHEROID["%s",%s,%s]],PRIMEM["%s",%s],UNIT["%s",%s]%s]`, system, datum,
		ball, wktNumber(g.SemiMajor), wktNumber(g.InverseFlattening), meridian, wktNumber(g.Meridian),
		map[bool]string{true: "Degree", false: "Angle"}[unit == 1], strconv.FormatFloat(unit*radian, 'g', 16, 64),
		w.authority(g.Code))
}

func (w wktWriter) authority(code int) string {
	if !w.codes || code == 0 {
		return ""
	}
	return fmt.Sprintf(`,AUTHORITY["EPSG","%d"]`, code)
}

// name writes a name, without codes in the letters of .prj files.
func (w wktWriter) name(text string) string {
	text = strings.ReplaceAll(text, `"`, "'")
	if w.codes {
		return text
	}
	return strings.NewReplacer(" / ", "_", " ", "_", "/", "_", "(", "", ")", "").Replace(text)
}

func wktNumber(v float64) string {
	text := strconv.FormatFloat(v, 'f', -1, 64)
	if !strings.Contains(text, ".") {
		text += ".0"
	}
	return text
}

// prjParameters writes the parameters that .prj files have for the system's method, in their order.
func (s *System) prjParameters() string {
	var b strings.Builder
	add := func(key string, v float64) { fmt.Fprintf(&b, `,PARAMETER["%s",%s]`, key, wktNumber(v)) }
	p := s.Parameters
	add("False_Easting", p.FalseEast/s.Measure)
	add("False_Northing", p.FalseNorth/s.Measure)
	switch s.Method {
	case HotineA, HotineB, Krovak, KrovakNorth:
		if s.Method == Krovak || s.Method == KrovakNorth {
			add("Pseudo_Standard_Parallel_1", p.Lat1)
		}
		add("Scale_Factor", p.Scale)
		add("Azimuth", p.Azimuth)
		add("Longitude_Of_Center", p.Lon0)
		add("Latitude_Of_Center", p.Lat0)
		if s.Method == HotineA || s.Method == HotineB {
			add("XY_Plane_Rotation", p.Skew)
		} else {
			add("X_Scale", -1)
			add("Y_Scale", 1)
			add("XY_Plane_Rotation", 90)
		}
	case PolarStereoB:
		add("Central_Meridian", p.Lon0)
		add("Standard_Parallel_1", p.Lat0)
	case MercatorA, MercatorB, WebMercator, CylindricalEqualArea:
		add("Central_Meridian", p.Lon0)
		switch {
		case s.Method == MercatorB || s.Method == CylindricalEqualArea:
			add("Standard_Parallel_1", p.Lat1)
		case s.Method == MercatorA && p.Scale != 1:
			add("Scale_Factor", p.Scale)
		default:
			add("Standard_Parallel_1", 0)
		}
		if s.Method == WebMercator {
			add("Auxiliary_Sphere_Type", 0)
		}
	default:
		add("Central_Meridian", p.Lon0)
		switch s.Method {
		case Conformal1:
			add("Standard_Parallel_1", p.Lat0)
			add("Scale_Factor", p.Scale)
		case Conformal2, Albers, ConformalBelgium, ConformalMichigan:
			add("Standard_Parallel_1", p.Lat1)
			add("Standard_Parallel_2", p.Lat2)
		case TransverseMercator, TransverseSouth, ObliqueStereo, PolarStereoA, CassiniSoldner:
			add("Scale_Factor", p.Scale)
		}
		if s.Method == ConformalMichigan {
			add("Scale_Factor", p.Scale)
		}
		add("Latitude_Of_Origin", p.Lat0)
	}
	return b.String()
}
