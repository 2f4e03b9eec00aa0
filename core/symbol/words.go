package symbol

import (
	"strings"
	"unicode"

	"gyrolith/core/nav"
)

// said are everyday words and phrases for what the symbols show.
var said = map[string]string{
	"mark": "waypoint,point,dot,pin,pushpin,marker,placemark,spot,place,location,position,generic,default,circle,square," +
		"diamond,star,cross,target",
	"flag": "flagged,banner,pennant", "start": "begin,beginning,start point,starting point,departure",
	"finish": "end,endpoint,arrival,destination,goal,finish line,checkered flag,chequered flag",
	"hazard": "danger,dangerous,caution,warning,alert,skull,attention,danger area,hazard area",
	"closed": "closure,no entry,forbidden,prohibited,restricted,restricted area,no access,do not enter,keep out," +
		"exclusion zone",
	"question":      "unknown,query,question mark,to be checked,unverified,uncertain",
	"meeting-point": "meeting,meeting place,rendezvous,rendezvous point,assembly point,muster point,muster",
	"first-aid": "hospital,medical,clinic,doctor,ambulance,first aid post,first aid station," +
		"red cross",
	"fuel": "petrol,petrol station,gas,gas station,filling station,fuel station,service station,diesel,fuel " +
		"dock,fuel pump",
	"water": "drinking water,potable water,water source,water point,water tap,tap,drinking fountain,fountain," +
		"fresh water",
	"depot":  "cache,supplies,supply depot,food depot,food cache,storage,stash",
	"camera": "photo,picture,photograph,photo point,image,photo taken",

	"summit": "peak,mountain,mountain top,mountain peak,hill,hilltop,top,crest,high point",
	"saddle": "pass,mountain pass,col,notch",
	"cairn":  "stone pile,stoneman,rock pile",
	"survey-mark": "trig,trig point,trig pillar,triangulation point,triangulation station,benchmark,survey " +
		"point,control point",
	"plot":   "transect,quadrat,survey plot,study plot,sample plot",
	"sample": "sampling point,sample site,specimen,soil sample",
	"nest":   "colony,rookery,nesting site,breeding site,bird,bird nest,burrow,roost",
	"hut": "house,cabin,lodge,home,building,residence,mountain hut,farm,barn,cottage,shed,chalet,alpine hut," +
		"lodging,hostel,hotel",
	"shelter": "refuge,bothy,lean to,emergency shelter,bivouac shelter,hide,blind",
	"camp": "campground,campsite,camping ground,camping,tent,tent site,bivouac,bivvy,campfire," +
		"caravan site,caravan park,holiday park",
	"spring": "well,source,waterhole,hot spring,borehole", "lake": "tarn,pond,reservoir,lagoon,loch,pool",
	"waterfall": "falls,cascade,cataract", "ford": "river crossing,stream crossing,stepping stones,wade",
	"bridge": "footbridge,viaduct,suspension bridge,boardwalk", "gate": "stile,turnstile,cattle grid,barrier,kissing gate",
	"junction": "crossroad,crossroads,intersection,signpost,fork,track junction,trail junction,road junction,turnoff," +
		"guidepost",
	"trailhead": "trail,hiker,hiking,hiking trail,path,footpath,trail start,walking,walking track",
	"parking":   "car park,parking lot,parking area,parking space,parking place,car,layby",
	"viewpoint": "view,scenic view,scenic overlook,lookout,lookout point,overlook,vista,binoculars,panorama," +
		"scenic,observation point",
	"cave": "cavern,grotto,sinkhole,pothole",

	"rock":       "rocks,reef,boulder,stone,skerry,submerged rock,underwater rock,ledge",
	"rock-awash": "awash,rock awash,drying rock,rock covers and uncovers",
	"wreck":      "shipwreck,sunken ship,hulk,dangerous wreck",
	"shoal":      "shallow,shallows,shallow water,sandbank,sandbar,mudflat",
	"overfalls":  "tiderace,tidalrace,rapids,rip,whirlpool,eddy,whitewater,tide rips",
	"kelp":       "weed,seaweed,seagrass,eelgrass", "sounding": "depth,depth sounding,spot depth,water depth",
	"anchorage": "anchor,anchored,anchoring place,anchorage prohibited,anchor berth,roadstead,roads",
	"mooring":   "mooring buoy,visitor mooring,bollard,berth,mooring field,dolphin,moorings",
	"landing":   "beach,landing place,landing beach,put in,take out,ashore,canoe launch,kayak launch,landing stage",
	"jetty":     "pier,quay,wharf,dock,pontoon,landing pier,breakwater",
	"slipway":   "ramp,boat ramp,boat launch,slip,launch ramp",
	"harbour":   "harbor,marina,port,boat harbour,yacht harbour,haven,ferry,ferry terminal,boatyard",
	"buoy": "navigation buoy,lateral buoy,cardinal buoy,channel buoy,racing buoy,racing mark,safe water buoy," +
		"isolated danger buoy,special buoy,float",
	"beacon": "daymark,daybeacon,leading mark,range mark,perch,withy,dayboard",
	"light":  "lighthouse,light vessel,lightship,navigation light,leading light,light tower,light beacon",
	"fishing": "fish,fishing gear,fishing area,fishing ground,fishing spot,fish trap,lobster pot,crab pot,pots," +
		"net,nets,fish farm",
	"diving": "dive,dive site,dive spot,diver,dive area,snorkel,snorkelling,snorkeling,scuba",

	"airfield":      "airport,aerodrome,airbase,plane,aeroplane,airplane,aircraft",
	"airstrip":      "strip,landing strip,runway,grass strip",
	"helipad":       "heliport,helicopter,helicopter pad,helicopter landing,helicopter landing area,landing zone",
	"water-landing": "seaplane,seaplane base,floatplane,water landing area,water runway,waterdrome",
	"reporting-point": "fix,intersection fix,compulsory reporting point,vfr point,vrp,visual reporting point,turnpoint," +
		"turning point",
	"radio-beacon": "vor,ndb,dme,vortac,vordme,radio beacon,nondirectional beacon",
	"obstacle":     "obstruction,tower,chimney,silo,water tower",
	"mast":         "antenna,aerial,radio mast,radio tower,cell tower,transmitter,communication tower,pylon",
	"cable":        "wire,powerline,power cable,transmission line,cable car,ropeway,zipline,overhead cable,overhead line",
	"wind-turbine": "turbine,windmill,wind farm,wind generator",
	"drop-zone":    "dropzone,parachute,parachute area,skydiving,jump zone,airdrop",
}

// qualifiers say of a symbol how it is drawn, and not what it shows.
var qualifiers = func() map[string]bool {
	out := map[string]bool{}
	for w := range strings.FieldsSeq("small medium large big tiny dark bright pale solid hollow filled outline icon " +
		"symbol") {
		out[w] = true
	}
	return out
}()

var byPhrase = func() map[string]string {
	m := map[string]string{}
	for word, list := range said {
		for w := range strings.SplitSeq(list, ",") {
			m[strings.ReplaceAll(w, " ", "")] = word
		}
	}
	for _, s := range All {
		m[strings.ReplaceAll(s.Word, "-", "")] = s.Word
	}
	return m
}()

// Meaning gives the neutral word for what somebody calls a symbol: one of the words itself, or an everyday one for the
// same, in any case, with or without its colour: "Campground", "car park", "Flag, Blue". It is "" where nobody can
// tell.
func Meaning(text string) string {
	words := strings.FieldsFunc(strings.ToLower(text), func(r rune) bool { return !unicode.IsLetter(r) })
	if w := phrase(strings.Join(words, "")); w != "" {
		return w
	}
	bare := words[:0]
	for _, w := range words {
		if _, colour := nav.ParseColour(w); !colour && !qualifiers[w] {
			bare = append(bare, w)
		}
	}
	return phrase(strings.Join(bare, ""))
}

func phrase(text string) string {
	if w := byPhrase[text]; w != "" {
		return w
	}
	return byPhrase[strings.TrimSuffix(text, "s")]
}
