from understep.study._prove import prove as prove
from understep.study._survey import survey as survey
from understep.study._trace import compare as compare
from understep.study._trace import trace as trace
